export { ZONE_PURPOSES, zoneDefaults, type ZonePurpose } from './zones.ts';
export { splitAddress, addressOrder, isAddress, type AddressParts } from './address.ts';
export { brokenRules, checkBinRules, type BinRules, type BrokenRule, type Goods, type RuleBreak } from './rules.ts';
export {
  buildGrid,
  checkGrid,
  countGrid,
  levelValues,
  MOST_BINS_AT_ONCE,
  SEPARATORS,
  type BinGrid,
  type GridBin,
  type GridFault,
  type GridLevel,
} from './grid.ts';
export { BIN_COLUMNS, judgeBinSheet, type BinImport, type BinRecord, type BinVerdict, type KnownBin } from './bin-sheet.ts';
export {
  aisleBox,
  bayCell,
  checkPlan,
  indexPlaces,
  laneCell,
  laneLength,
  type Box,
  type Cell,
  type FloorPlan,
  type PlanAisle,
  type PlanBin,
  type PlanFault,
  type PlanSpot,
  type PlanThing,
} from './plan.ts';
export { generatePlan, nameCells, zoneAreas } from './draw-plan.ts';
export { refreshPlan } from './refresh-plan.ts';
export { measureBetween, type Metres } from './corridors.ts';
export { pathOver } from './path.ts';
export { indexStops, stepsFrom, walkedFloor, walkGrid, walkingDistances, type WalkedFloor, type WalkGrid } from './distance.ts';
export { placesSentence, type PlacesError } from './errors.ts';
