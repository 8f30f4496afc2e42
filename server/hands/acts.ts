import type { Qty } from '#core/base';
import type { Does, Unreadable } from '#core/hands';
import type { Role } from '#core/people';
import { DoesIn } from '#contract/hands';

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

const LONGEST_TOLD = 20_000;

/** What an act says that it did, or the text of it where this program cannot read it. */
export function readDoes(told: unknown): Does | Unreadable {
  const read = DoesIn.safeParse(told);
  return read.success ? (read.data as Does) : { kind: 'unreadable', told: JSON.stringify(told).slice(0, LONGEST_TOLD) };
}

/** What cannot be read of it, in the words of whoever reads. */
export function faultIn(told: unknown): string {
  const [fault] = DoesIn.safeParse(told).error?.issues ?? [];
  return fault ? `${fault.path.join('.') || 'it'}: ${fault.message}` : 'it is cut off';
}
