/** A picture in greys, a byte each, row by row, 0 is black. */
export type GreyPicture = { readonly width: number; readonly height: number; readonly greys: Uint8Array };

/** The largest size of a picture inside a room that keeps its shape, whole dots. */
export function sizeInside(
  picture: { readonly width: number; readonly height: number },
  room: { readonly width: number; readonly height: number },
): { width: number; height: number } {
  const scale = Math.min(room.width / picture.width, room.height / picture.height);
  const side = (pixels: number, most: number): number => Math.max(1, Math.min(most, Math.round(pixels * scale)));
  return { width: side(picture.width, room.width), height: side(picture.height, room.height) };
}

/** A picture in dots of a head, one for black: each dot has the mean of what it covers, and what is neither black nor white is spread over
 *  its neighbours. What is nearly black or white in the picture stays so: drawings keep clean edges.
 *  Source: R. W. Floyd, L. Steinberg, An Adaptive Algorithm for Spatial Grey Scale, Proceedings of the SID 17 (1976). */
export function inDots(picture: GreyPicture, width: number, height: number): Uint8Array {
  const means = shrunk(picture, width, height);
  const dots = new Uint8Array(width * height);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1) {
      const at = y * width + x;
      const grey = means[at] as number;
      const isDark = grey < 128;
      dots[at] = isDark ? 1 : 0;
      const error = grey - (isDark ? 0 : 255);
      const give = (dx: number, dy: number, share: number): void => {
        if (x + dx < 0 || x + dx >= width || y + dy >= height) return;
        const to = at + dy * width + dx;
        means[to] = (means[to] as number) + (error * share) / 16;
      };
      give(1, 0, 7);
      give(-1, 1, 3);
      give(0, 1, 5);
      give(1, 1, 1);
    }
  return dots;
}

// A dark ink is black, and a tint of the paper is paper.
const [INK, PAPER] = [72, 232];
const settled = (grey: number): number => (grey < INK ? 0 : grey > PAPER ? 255 : grey);

// Means over the part of the picture that each dot covers; a picture that is smaller than its room is repeated by its pixels.
function shrunk({ width: from, height: down, greys }: GreyPicture, width: number, height: number): Float64Array {
  const means = new Float64Array(width * height);
  const span = (n: number, of: number, pixels: number): [number, number] => {
    const first = Math.floor((n * pixels) / of);
    return [first, Math.max(first + 1, Math.floor(((n + 1) * pixels) / of))];
  };
  for (let y = 0; y < height; y += 1) {
    const [top, bottom] = span(y, height, down);
    for (let x = 0; x < width; x += 1) {
      const [left, right] = span(x, width, from);
      let sum = 0;
      for (let row = top; row < bottom; row += 1)
        for (let column = left; column < right; column += 1) sum += greys[row * from + column] as number;
      means[y * width + x] = settled(sum / ((bottom - top) * (right - left)));
    }
  }
  return means;
}
