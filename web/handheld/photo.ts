import { MOST_PHOTO_LETTERS } from '#contract/hands';

const SIDES = [1280, 960, 640] as const; // pixels
const QUALITY = 0.75;

/** Makes a picture so small that it is kept on the device and told like any other act: JPEG in base64.
 *  Errors: a sentence, where the file is no picture that can be opened here. */
export async function smallPhoto(file: File): Promise<string> {
  const picture = await createImageBitmap(file, { imageOrientation: 'from-image' }).catch(() => null);
  if (!picture) throw new Error(`${file.name} is not a picture that can be opened here.`);
  try {
    for (const side of SIDES) {
      const jpeg = await drawn(picture, side);
      if (jpeg.length > 0 && jpeg.length <= MOST_PHOTO_LETTERS) return jpeg;
    }
  } finally {
    picture.close();
  }
  throw new Error(`${file.name} cannot be made small enough to be kept.`);
}

async function drawn(picture: ImageBitmap, side: number): Promise<string> {
  const scale = Math.min(1, side / Math.max(picture.width, picture.height));
  const canvas = new OffscreenCanvas(Math.max(1, Math.round(picture.width * scale)), Math.max(1, Math.round(picture.height * scale)));
  canvas.getContext('2d')?.drawImage(picture, 0, 0, canvas.width, canvas.height);
  const bytes = new Uint8Array(await (await canvas.convertToBlob({ type: 'image/jpeg', quality: QUALITY })).arrayBuffer());
  // In parts: all at once would be more arguments than a call takes.
  let letters = '';
  for (let at = 0; at < bytes.length; at += 30_000) letters += String.fromCharCode(...bytes.subarray(at, at + 30_000));
  return btoa(letters);
}
