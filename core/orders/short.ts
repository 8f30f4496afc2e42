import { formatQty, minQty, subQty, sumQty, ZERO, type Qty } from '#core/base';

/** What an item has beside what is free at a site. Quantities in thousandths of the base unit. */
export type BesideFree = {
  /** What the line asks of its goods, in words; null where it takes whatever there is. */
  readonly asks: string | null;
  /** Free at the site, whatever the line asks. */
  readonly free: Qty;
  /** Free at other sites. */
  readonly elsewhere: readonly { readonly site: string; readonly qty: Qty }[];
  /** Under holds, by their reason. */
  readonly held: readonly { readonly reason: string; readonly qty: Qty }[];
  readonly toInspect: Qty;
  readonly expired: Qty;
  /** Failed, or sound in zones whose stock may not be promised, by zone. */
  readonly apart: readonly { readonly zone: string; readonly qty: Qty }[];
  /** What suppliers still owe, the soonest first. */
  readonly coming: readonly { readonly number: string; readonly due: string; readonly qty: Qty }[];
  /** What is promised to others and in nobody's hands yet, the least urgent first. */
  readonly promised: readonly { readonly order: string; readonly due: string; readonly qty: Qty }[];
};

const MOST_NAMED = 2;

/** Says why so much of an item could not be promised, and what would mend it (F4), the quickest first.
 *  Shape:  short sentences; none where nothing is known of the item. Of each kind the few that would serve first are named.
 *  Units:  thousandths; `sayDay` writes an ISO day. */
export function explainShort(missing: Qty, beside: BesideFree, sayDay: (day: string) => string): readonly string[] {
  if (missing <= 0) return [];
  return [
    ...(beside.asks !== null && beside.free > 0 ? [`${formatQty(beside.free)} free, but not as asked: ${beside.asks}`] : []),
    ...few(beside.elsewhere, missing, (e) => `${formatQty(e.qty)} at ${e.site}`),
    ...few(beside.held, missing, (h) => `${formatQty(h.qty)} held: ${h.reason}`),
    ...(beside.toInspect > 0 ? [`${formatQty(beside.toInspect)} to inspect`] : []),
    ...few(beside.apart, missing, (a) => `${formatQty(a.qty)} in ${a.zone}, which is not promised from`),
    ...few(beside.coming, missing, (c) => `${formatQty(c.qty)} on ${sayDay(c.due)} with ${c.number}`),
    ...few(beside.promised, missing, (p) => `${formatQty(p.qty)} promised to ${p.order}, due ${sayDay(p.due)}`),
    ...(beside.expired > 0 ? [`${formatQty(beside.expired)} expired`] : []),
    ...(nothingComes(beside) ? ['none is on order'] : []),
  ];
}

// As many as it takes to have enough, and no more than can be read at a glance.
function few<Of extends { readonly qty: Qty }>(all: readonly Of[], wanted: Qty, say: (of: Of) => string): string[] {
  const said: string[] = [];
  let open = wanted;
  for (const one of all.filter((a) => a.qty > 0)) {
    if (open <= 0 || said.length === MOST_NAMED) break;
    said.push(say(one));
    open = subQty(open, minQty(open, one.qty));
  }
  return said;
}

const nothingComes = (b: BesideFree): boolean =>
  b.coming.length === 0 && b.elsewhere.length === 0 && b.toInspect === 0 && sumQty(b.held.map((h) => h.qty)) === ZERO;
