/** How an item is followed (B4). `serialOut` notes the serial only when it ships. */
export const TRACKINGS = ['none', 'lot', 'lotExpiry', 'serial', 'serialOut'] as const;
export type Tracking = (typeof TRACKINGS)[number];

export function needsLot(tracking: Tracking): boolean {
  return tracking === 'lot' || tracking === 'lotExpiry';
}
export function needsExpiry(tracking: Tracking): boolean {
  return tracking === 'lotExpiry';
}
export function needsSerialOnArrival(tracking: Tracking): boolean {
  return tracking === 'serial';
}
export function needsSerialToShip(tracking: Tracking): boolean {
  return tracking === 'serial' || tracking === 'serialOut';
}
