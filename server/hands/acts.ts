import type { Qty } from '#core/base';
import type { Does } from '#core/hands';
import type { Role } from '#core/people';

/** An act as it is done: what a hand told, with its author and its moment by the server's clock. */
export type Act = {
  readonly key: string;
  readonly does: Does;
  readonly site: number;
  readonly person: number;
  readonly role: Role;
  /** The device's name, as the ledger shows it. */
  readonly device: string;
  readonly at: Date;
};

/** What an act came to beside stock: the documents by which it can be undone. */
export type Done = { readonly documents: readonly number[] };
export const NOTHING_BUT_DONE: Done = { documents: [] };

export const floorOf = (act: Act): { site: number; person: number; device: string; at: Date } => ({
  site: act.site,
  person: act.person,
  device: act.device,
  at: act.at,
});
export const qtyOf = (steps: number): Qty => steps as Qty;
