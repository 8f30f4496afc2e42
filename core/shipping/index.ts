export { decideShipment, type ShipLine } from './ship.ts';
export { shippingSentence, type ShippingError } from './errors.ts';
