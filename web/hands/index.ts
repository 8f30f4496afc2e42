export { Floor, type FloorState } from './floor.ts';
export { LineError, httpLine, type Line, type LineFault } from './line.ts';
export { openKeep, type Keep } from './keep.ts';
export { openFloor, pokeCourier, theFloor, useCourier, useFloor } from './use-floor.ts';
export type { KeptAct } from './kept.ts';
