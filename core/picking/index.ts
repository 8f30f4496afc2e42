export { chooseAsked, lessPlanned, type AskedWant, type KeptForOthers, type Planned } from './choose-asked.ts';
export { chooseStock, type PickSource, type PickWant, type PlannedPick, type Allocation } from './choose.ts';
export { byWay, orderStops, type Stop } from './stops.ts';
export { decidePick, type PickCommand, type PickFacts } from './pick.ts';
export { decideKeyed, type KeyedPick, type OpenPick } from './keyed.ts';
export { pickingSentence, type PickingError } from './errors.ts';
export {
  foldRound,
  NOTHING_NAMED,
  openOf,
  ownMade,
  ownTaken,
  PICK_BEGINS,
  pickDeltasOf,
  stopAt,
  stopsOf,
  takenOf,
  type HandKit,
  type HandMade,
  type HandPick,
  type HandStop,
  type HandTaken,
  type Instead,
  type PickAsks,
  type PickAt,
  type PickChoice,
  type PickDoes,
  type RoundJob,
  type TroubleKind,
} from './round-job.ts';
export { decideAssembly, partInHand, type KitPartInHand } from './kits.ts';
export { pickingSaid, type PickingSaid } from './said.ts';
export { kitsToMake, nextKit, partsOnCart } from './hand-kits.ts';
export { madeSerial, stepPick } from './hands.ts';
