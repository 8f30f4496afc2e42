export type Tone = 'right' | 'wrong' | 'look';

// Right is one high beep, wrong two low ones, look a rising pair: told apart in noise and without looking.
const TONES: Readonly<Record<Tone, readonly [hertz: number, ms: number][]>> = {
  right: [[1320, 70]],
  wrong: [
    [196, 160],
    [156, 240],
  ],
  look: [
    [660, 90],
    [880, 120],
  ],
};
const SHAKES: Readonly<Record<Tone, number[]>> = { right: [40], wrong: [160, 80, 160], look: [60, 60, 60] };

let audio: AudioContext | null = null;

/** Answers a scan by tone and vibration. Never fails: a device without a speaker is no reason to lose a scan. */
export function sound(tone: Tone): void {
  try {
    navigator.vibrate?.(SHAKES[tone]);
    audio ??= new AudioContext();
    let at = audio.currentTime;
    for (const [hertz, ms] of TONES[tone]) {
      const beep = audio.createOscillator();
      const level = audio.createGain();
      beep.type = tone === 'wrong' ? 'square' : 'sine';
      beep.frequency.value = hertz;
      level.gain.value = 0.15;
      beep.connect(level).connect(audio.destination);
      beep.start(at);
      beep.stop(at + ms / 1000);
      at += ms / 1000 + 0.03;
    }
  } catch {
    // No audio here.
  }
}
