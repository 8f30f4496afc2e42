import type { Does } from '#core/hands';
import type { Stamp } from '#core/floor';
import type { Me } from '#contract/people';

/** Which program wrote what is kept. Counted up whenever the shape of acts, of places or of facts changes: what another program wrote is
 *  sent, and neither drawn nor gone on with. */
export const PROGRAM = '19';

/** An act as the device keeps it. `waiting`: the server has not answered for it. `told`: it has, and the device's facts are still older.
 *  `done`: kept for undo. `clash`: it waits for the lead, and is shown until the hand has seen it. `doneAt` is by the device's own clock,
 *  in milliseconds. */
export type KeptAct = {
  readonly key: string;
  readonly seq: number;
  readonly after: string | null;
  readonly person: number;
  readonly site: number;
  readonly job: string;
  readonly doneAt: number;
  /** The moment by the server's clock as far as the device knew it then. */
  readonly at: string;
  readonly does: Does;
  readonly program: string;
  readonly state: 'waiting' | 'told' | 'done' | 'clash';
  readonly says: string | null;
};

export const stampOf = (act: KeptAct): Stamp => ({ key: act.key, at: act.at, person: act.person, more: [] });

/** What a device knows of itself. `ahead`: by how many milliseconds its clock is ahead of the server's. */
export type Meta = {
  readonly me: Me | null;
  readonly device: { id: string; name: string } | null;
  readonly seq: number;
  readonly ahead: number;
  readonly program: string;
};
export const NEW_META: Meta = { me: null, device: null, seq: 0, ahead: 0, program: PROGRAM };

/** What is known of a site's facts: the revision, and when it was read (milliseconds by the device's clock). */
export type Taken = {
  readonly revision: string;
  readonly at: number;
  readonly today: string;
  readonly trust: boolean;
  readonly onlyLotsThatRead: boolean;
  readonly program: string;
};
