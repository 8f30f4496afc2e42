import type { Branded } from './brand.ts';

// Ids are the database's own whole numbers; the brand keeps a bin from being passed for an item.
export type SiteId = Branded<number, 'SiteId'>;
export type ZoneId = Branded<number, 'ZoneId'>;
export type BinId = Branded<number, 'BinId'>;
export type ItemId = Branded<number, 'ItemId'>;
export type LotId = Branded<number, 'LotId'>;
export type SerialId = Branded<number, 'SerialId'>;
export type UnitId = Branded<number, 'UnitId'>;
export type OrderId = Branded<number, 'OrderId'>;
export type LineId = Branded<number, 'LineId'>;
export type PersonId = Branded<number, 'PersonId'>;
export type DocumentId = Branded<number, 'DocumentId'>;
