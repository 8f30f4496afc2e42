export { Floor, type FloorState } from './floor.ts';
export { LineError, httpLine, type Line, type LineFault } from './line.ts';
export { openKeep, type Keep } from './keep.ts';
export { openFloor, pokeCourier, theFloor, useCourier, useFloor } from './use-floor.ts';
export type { KeptAct } from './kept.ts';
export { Clashes } from './clashes.tsx';
export { FloorPage } from './devices.tsx';
export { TakingAlong } from './taking-along.tsx';
export { useHand, type Answer, type Hand } from './use-hand.ts';
