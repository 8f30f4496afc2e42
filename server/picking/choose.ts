import { subQty, sumQty, type ItemId, type LineId, type Qty, type SiteId } from '#core/base';
import { chooseAsked, type Allocation, type AskedWant, type KeptForOthers } from '#core/picking';
import { asksNothing, poolOf, type Asking } from '#core/stock';
import type { Db } from '#server/kernel';
import { readPools } from '#server/stock';
import { selectAskedItems, selectSources } from './store-sources.ts';

type Reads = Pick<Db, 'raw'>;
export type WantOfLine = { readonly line: number; readonly item: number; readonly qty: Qty; readonly asking: Asking };

/** Chooses where to take what lines want, most urgent first: what they name, or what is best, and nothing that is kept for others.
 *  Shape:  `not`: a bin where nobody need look again; `use`: `arrivals` for goods that go from the dock to the bench.
 *  Locks:  nothing; who plans by it holds the items' locks. */
export async function chooseForLines(
  db: Reads,
  site: number,
  wants: readonly WantOfLine[],
  of: { use?: 'shelf' | 'arrivals'; not?: number } = {},
): Promise<Allocation> {
  const open = wants.filter((w) => w.qty > 0);
  const items = [...new Set(open.map((w) => w.item))];
  const sources = await selectSources(db, site, items, of.use ?? 'shelf');
  return chooseAsked(
    open as unknown as AskedWant[],
    sources.filter((s) => s.bin !== of.not),
    await readKept(db, site, items, new Set(open.map((w) => w.line))),
  );
}

/** What of these items is promised to other lines that ask for certain goods, is in nobody's hands, and no round is on its way for. */
export async function readKept(
  db: Reads,
  site: number,
  items: readonly number[],
  but: ReadonlySet<number> = new Set(),
): Promise<KeptForOthers[]> {
  const asked = await selectAskedItems(db, site, items);
  if (asked.length === 0) return [];
  const pools = await readPools(
    db,
    asked.map((item) => ({ item, site })),
  );
  return asked.flatMap((item) =>
    (pools.get(poolOf(item as ItemId, site as SiteId))?.standing ?? [])
      .filter((s) => !asksNothing(s.asking) && !but.has(s.line as LineId as number))
      .map((s) => ({ item: item as ItemId, asking: s.asking, qty: subQty(s.qty, sumQty(s.planned.map((p) => p.qty))) }))
      .filter((k) => k.qty > 0),
  );
}
