import { unfitForGs1 } from '#core/items';
import { announce, refuse, type Db, type Trx } from '#server/kernel';
import { upsertSetting } from '#server/people';
import { selectOnlyLotsThatRead, selectUnknownLots } from './store-lots.ts';

/** Refuses new lots that the code of a label cannot hold, where the house wants it so: at the desk, where they are typed. What a hand had
 *  taken before the house wanted it is never refused, and a lot that the house has already is one, whatever it is called.
 *  Errors: `items.lotUnread`. */
export async function refuseUnreadLots(
  db: Pick<Db, 'raw'>,
  typed: readonly { item: number; lot: string | null | undefined }[],
): Promise<void> {
  const unread = typed.flatMap(({ item, lot }) => (lot && unfitForGs1(lot) !== null ? [{ item, lot }] : []));
  if (unread.length === 0 || !(await selectOnlyLotsThatRead(db))) return;
  const [first] = await selectUnknownLots(db, unread);
  if (first) refuse({ code: 'items.lotUnread', lot: first.lot, why: unfitForGs1(first.lot) ?? '' });
}

/** Says whether the house takes only lots that the code of a label can hold; its devices hear of it. */
export async function setOnlyLotsThatRead(trx: Trx, only: boolean): Promise<void> {
  await upsertSetting(trx, 'only lots that read', only);
  announce(trx, 'hands');
  announce(trx, 'items');
}
