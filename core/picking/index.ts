export { chooseStock, type PickSource, type PickWant, type PlannedPick, type Allocation } from './choose.ts';
export { orderStops, type Stop } from './stops.ts';
export { decidePick, type PickCommand, type PickFacts } from './pick.ts';
export { pickingSentence, type PickingError } from './errors.ts';
