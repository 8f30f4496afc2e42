import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { Choice } from '#contract/desk';
import { NOBODY_THERE, stepChoosing, type Choosing, type ChoosingEvent } from './choosing.ts';

const JAR: Choice = { id: 7, code: 'JAR-3', name: 'Jar' };
const LID: Choice = { id: 8, code: 'LID-3', name: 'Lid' };
const first = { choice: JAR, words: 'JAR-3 Jar' };

/** Steps through events; returns the field as it is then and what it stands for. */
function after(...events: ChoosingEvent[]): { state: Choosing; value: Choice | null } {
  let [state, value]: [Choosing, Choice | null] = [NOBODY_THERE, null];
  for (const event of events) {
    const step = stepChoosing(state, event);
    state = step.state;
    if (step.chosen !== undefined) value = step.chosen;
  }
  return { state, value };
}
const keyed = (text: string): ChoosingEvent => ({ kind: 'keyed', text });

describe('a field that names something', () => {
  it('Enter before the list is there waits for it, and is given the first that it names', () => {
    const waiting = after({ kind: 'came' }, keyed('jar'), { kind: 'entered', isSettled: false });
    expect(waiting).toMatchObject({ value: null, state: { isWaiting: true } });
    expect(after(keyed('jar'), { kind: 'entered', isSettled: false }, { kind: 'settled', first })).toMatchObject({
      value: JAR,
      state: { isWaiting: false, typed: '' },
    });
  });
  it('a list that comes without an Enter chooses nothing; nor does one that found nothing', () => {
    expect(after(keyed('jar'), { kind: 'settled', first }).value).toBeNull();
    expect(after(keyed('jra'), { kind: 'entered', isSettled: false }, { kind: 'settled', first: null })).toMatchObject({
      value: null,
      state: { isWaiting: false, typed: 'jra' },
    });
  });
  it('whoever keys on after Enter meant something else', () => {
    expect(after(keyed('ja'), { kind: 'entered', isSettled: false }, keyed('jam'), { kind: 'settled', first }).value).toBeNull();
  });
  it('Enter on a list that is there is the list’s own, and Enter on an empty field is nobody’s', () => {
    expect(after(keyed('jar'), { kind: 'entered', isSettled: true }).state.isWaiting).toBe(false);
    expect(after({ kind: 'entered', isSettled: false }).state.isWaiting).toBe(false);
  });
  it('what a scan chose stays when the field takes itself to be emptied; emptied by hand it is empty', () => {
    const scanned: ChoosingEvent = { kind: 'scanned', choice: LID, words: 'LID-3 Lid' };
    expect(after(scanned, { kind: 'listed', choice: null })).toMatchObject({ value: LID, state: { scans: 1 } });
    expect(after(scanned, keyed('')).value).toBeNull();
    expect(after(scanned, { kind: 'emptied' }).value).toBeNull();
    expect(after(scanned, { kind: 'emptied' }, { kind: 'listed', choice: null }).value).toBeNull();
  });
  it('a scan of the wrong kind says so and leaves what was chosen; the next word of the hand takes the sentence away', () => {
    const missed = after({ kind: 'listed', choice: JAR }, { kind: 'missed', problem: 'That is the bin A-01.' });
    expect(missed).toMatchObject({ value: JAR, state: { problem: 'That is the bin A-01.', scans: 1 } });
    expect(stepChoosing(missed.state, keyed('l')).state).toMatchObject({ problem: null, scans: 0 });
  });
  it('however it is used, it stands for what was chosen last, and never waits with nothing keyed', () => {
    const event: fc.Arbitrary<ChoosingEvent> = fc.oneof(
      fc.constantFrom<ChoosingEvent>({ kind: 'came' }, { kind: 'left' }, { kind: 'listClosed' }, { kind: 'emptied' }),
      fc.constantFrom('', 'j', 'jar').map(keyed),
      fc.boolean().map((isSettled): ChoosingEvent => ({ kind: 'entered', isSettled })),
      fc.constantFrom(first, null).map((f): ChoosingEvent => ({ kind: 'settled', first: f })),
      fc.constantFrom(JAR, LID, null).map((choice): ChoosingEvent => ({ kind: 'listed', choice })),
      fc.constantFrom(JAR, LID).map((choice): ChoosingEvent => ({ kind: 'scanned', choice, words: choice.code })),
      fc.constant<ChoosingEvent>({ kind: 'missed', problem: 'no' }),
    );
    fc.assert(
      fc.property(fc.array(event, { maxLength: 25 }), (events) => {
        let state = NOBODY_THERE;
        for (const e of events) {
          const step = stepChoosing(state, e);
          if (e.kind === 'scanned') expect(step.chosen).toBe(e.choice);
          if (e.kind === 'came' || e.kind === 'left' || e.kind === 'missed') expect(step.chosen).toBeUndefined();
          // Nothing that is heard without a hand at the field empties it.
          if (step.chosen === null) expect(['keyed', 'emptied', 'listed']).toContain(e.kind);
          if (step.state.isWaiting) expect(step.state.typed).not.toBe('');
          state = step.state;
        }
      }),
    );
  });
});
