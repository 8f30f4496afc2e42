export { checkDigit, hasValidCheckDigit, withCheckDigit } from './check-digit.ts';
export { packToBase, baseToPacks, type Pack } from './packs.ts';
export { readScan, type ScanReading, type ScanFault, scanFaultSentence } from './scan.ts';
export { readGs1, GS1_AIS, type Gs1Elements, type Gs1Fault } from './gs1.ts';
export { readGs1Date } from './gs1-date.ts';
export { itemsSentence, type ItemsError } from './errors.ts';
export { TRACKINGS, needsLot, needsExpiry, needsSerialOnArrival, needsSerialToShip, type Tracking } from './tracking.ts';
