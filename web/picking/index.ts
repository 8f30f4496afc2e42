export { Rounds } from './rounds.tsx';
export { ProposeRounds } from './propose.tsx';
export { serialsOf, WHY_FEWER, type WhyFewer } from './key-sheet.tsx';
export { WalkedBy } from './walked-by.tsx';
export { WayMap, type MapStop } from './round-map.tsx';
