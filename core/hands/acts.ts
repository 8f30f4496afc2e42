import type { CarryDoes } from '#core/carrying';
import type { CountDoes } from '#core/counting';
import type { AdjustDoes, MoveDoes } from '#core/moves';
import type { PickDoes } from '#core/picking';
import type { ReceiveDoes } from '#core/receiving';
import type { PackDoes } from '#core/shipping';

/** Everything that a hand can do on the floor. */
export type Does = ReceiveDoes | MoveDoes | AdjustDoes | PickDoes | CarryDoes | CountDoes | PackDoes;
export type DoesKind = Does['kind'];

/** Something that a device told and this program cannot read: an older or a newer one wrote it. `told`: its JSON text, for whoever settles
 *  it. */
export type Unreadable = { readonly kind: 'unreadable'; readonly told: string };

/** The job to which something belongs: acts of one job reach the server in the order in which they were done. */
export function jobOf(does: Does | Unreadable): string {
  if (does.kind === 'unreadable') return 'unreadable';
  if ('delivery' in does) return `delivery:${does.delivery}`;
  if ('round' in does) return `round:${does.round}`;
  if ('carry' in does) return `carry:${does.carry}`;
  if ('count' in does) return `count:${does.count}`;
  if ('order' in does) return `order:${does.order}`;
  return 'moves';
}

/** When something happened by the server's clock, whatever the device's clock said.
 *  Shape:  `doneAt` and `sentAt` are by the device's clock, `now` by the server's; all milliseconds. Never later than now, never more than
 *          30 days ago: a clock that was set between the two is not believed further. */
export function happenedAt(doneAt: number, sentAt: number, now: number): number {
  const ago = sentAt - doneAt;
  return now - Math.min(Math.max(0, ago), LONGEST_AWAY_MS);
}
const LONGEST_AWAY_MS = 30 * 24 * 3_600_000;
