export { decideShipment, type ShipLine } from './ship.ts';
export { shippingSentence, type ShippingError } from './errors.ts';
export {
  benchDoubt,
  foldBench,
  isComplete,
  PACK_BEGINS,
  shippingSaid,
  stepPack,
  type BenchOrder,
  type BenchPiece,
  type PackAt,
  type PackChoice,
  type PackDoes,
  type ShippingSaid,
} from './hands.ts';
export { decideFree, decideHandOver, type AskedOfFree, type HandedOver } from './hand-over.ts';
