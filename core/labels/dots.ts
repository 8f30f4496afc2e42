/** Dots to the inch that a print head has. */
export const RESOLUTIONS = [203, 300, 600] as const;
export type Dpi = (typeof RESOLUTIONS)[number];

const MM_PER_INCH = 25.4;

/** How many dots of a print head fit into a length, whole. The hair's breadth keeps 2 dots in 0.25 mm at 203 to the inch, as heads are made
 *  (8 dots to the millimetre).
 *  Units:  millimetres in, dots out. */
export const dotsIn = (mm: number, dpi: Dpi): number => Math.floor((mm * dpi) / MM_PER_INCH + 1e-9);

/** How many dots are at least so long.
 *  Units:  millimetres in, dots out. */
export const dotsFor = (mm: number, dpi: Dpi): number => Math.ceil((mm * dpi) / MM_PER_INCH - 1e-9);

/** How long so many dots are, in millimetres. */
export const mmOf = (dots: number, dpi: Dpi): number => (dots * MM_PER_INCH) / dpi;
