/** A name of a bin as it is compared: case, width and space around it do not matter. The database's `fold_name` does the same. */
export function foldName(text: string): string {
  return text.trim().normalize('NFKC').toUpperCase();
}

// The kinds of numbers that the house gives its own papers.
const NUMBERED = {
  PO: 'purchaseOrder',
  DL: 'delivery',
  RC: 'document',
  PA: 'document',
  MV: 'document',
  RD: 'round',
  SH: 'shipment',
  RT: 'delivery',
  RE: 'document',
  IN: 'document',
  CT: 'count',
  AJ: 'document',
  CO: 'order',
  OB: 'document',
  RV: 'document',
  HD: 'document',
  HR: 'document',
  TR: 'document',
  PB: 'document',
  TF: 'document',
  CR: 'carry',
} as const;
export type NumberedKind = (typeof NUMBERED)[keyof typeof NUMBERED];

/** Which paper of the house a text numbers, or null. A device need not know the paper to know that it is one. */
export function numberedKind(text: string): NumberedKind | null {
  const prefix = /^([A-Z]{2})-\d{1,9}$/.exec(text.trim().toUpperCase())?.[1];
  return prefix !== undefined && prefix in NUMBERED ? NUMBERED[prefix as keyof typeof NUMBERED] : null;
}
