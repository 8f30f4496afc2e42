import { minQty, subQty, ZERO, type BinId, type LotId, type Qty, type SerialId } from '#core/base';

/** What a line asks of the goods that are promised to it (F3, F10). What is null may be any. */
export type Asking = {
  readonly lot: LotId | null;
  readonly serials: readonly SerialId[] | null;
  readonly bin: BinId | null;
  /** The last day on which the goods must still be good. What has no date keeps for ever. */
  readonly goodOn: string | null;
};
/** Goods that lie somewhere. Thousandths of the base unit. */
export type Lying = {
  readonly bin: BinId;
  readonly lot: LotId | null;
  readonly serial: SerialId | null;
  readonly expires: string | null;
  readonly qty: Qty;
};
/** So much is promised and in nobody's hands yet. */
export type Claim = { readonly asking: Asking; readonly qty: Qty };

/** Whatever there is. */
export const ASKS_NOTHING: Asking = { lot: null, serials: null, bin: null, goodOn: null };

/** Whether a line takes these goods. */
export function isAskedFor(goods: Omit<Lying, 'qty'>, asking: Asking): boolean {
  return (
    (asking.lot === null || goods.lot === asking.lot) &&
    (asking.bin === null || goods.bin === asking.bin) &&
    (asking.serials === null || (goods.serial !== null && asking.serials.includes(goods.serial))) &&
    (asking.goodOn === null || goods.expires === null || goods.expires >= asking.goodOn)
  );
}

/** Whether a line takes whatever there is. */
export const asksNothing = (asking: Asking): boolean => keyOf(asking) === keyOf(ASKS_NOTHING);

/** Two askings that name the same goods have the same key. */
export const keyOf = (a: Asking): string =>
  `${a.lot ?? ''}|${a.serials === null ? '' : a.serials.toSorted((x, y) => x - y).join(',') || '-'}|${a.bin ?? ''}|${a.goodOn ?? ''}`;

type Share<L extends Lying> = {
  readonly fits: readonly boolean[];
  readonly goods: readonly L[];
  left: Qty;
  readonly given: Qty[];
};
type Step = { readonly from: number; readonly share: number };

/** Which goods of one item at one site are kept for whom, as far as it must be known: that everybody who was given something can have it
 *  at once, although some name their lot, their bin, their serials or how long the goods must keep.
 *  Shape:  goods that the same askings take are one share; lines that ask the same are one asking. `give` gives as much as can be beside
 *          all that was given before, which it moves to other goods where it must and never takes back.
 *  Source: a transportation problem solved by augmenting paths, the shortest first (Edmonds and Karp, 1972). What was given once stays
 *          given because a path only lengthens a matching: so giving the most urgent first serves them as if nobody else were there.
 *  Units:  thousandths of the base unit. */
export class Allotment<L extends Lying = Lying> {
  readonly #askings: ReadonlyMap<string, number>;
  #shares: readonly Share<L>[];

  /** `askings`: every one that will be given something; others are refused with an error that is the programmer's. */
  constructor(lying: readonly L[], askings: Iterable<Asking>) {
    const distinct = new Map([...askings].map((a) => [keyOf(a), a]));
    this.#askings = new Map([...distinct.keys()].map((key, n) => [key, n]));
    const shares = new Map<string, { fits: boolean[]; goods: L[] }>();
    for (const goods of lying) {
      const fits = [...distinct.values()].map((a) => isAskedFor(goods, a));
      const signature = fits.map(Number).join('');
      const share = shares.get(signature);
      if (share) share.goods.push(goods);
      else shares.set(signature, { fits, goods: [goods] });
    }
    this.#shares = [...shares.values()]
      // What fewest take goes first: what many take stays for them.
      .toSorted((a, b) => count(a.fits) - count(b.fits))
      .map(({ fits, goods }) => ({
        fits,
        goods,
        left: goods.reduce((sum, g) => sum + g.qty, 0) as Qty,
        given: fits.map(() => ZERO),
      }));
  }

  /** Gives as much as can be, up to `wanted`; returns how much. */
  give(asking: Asking, wanted: Qty): Qty {
    const who = this.#indexOf(asking);
    let open = wanted;
    while (open > 0) {
      const path = this.#pathFrom(who);
      if (!path) break;
      open = subQty(open, this.#giveAlong(path, open));
    }
    return open < wanted ? subQty(wanted, open) : ZERO;
  }

  /** The goods among which one asking may choose when all the others keep what they were given: in the order in which they were told, with
   *  what the others keep taken off the last of each share. */
  choiceOf(asking: Asking): L[] {
    const who = this.#indexOf(asking);
    return this.#shares.flatMap((share) => {
      if (share.fits[who] !== true) return [];
      let room = (share.left + (share.given[who] ?? 0)) as Qty;
      return share.goods.flatMap((goods) => {
        const qty = minQty(room, goods.qty);
        room = subQty(room, qty);
        return qty > 0 ? [{ ...goods, qty }] : [];
      });
    });
  }

  /** Notes how it stands; what is returned makes it stand so again. */
  mark(): () => void {
    const shares = this.#shares.map((s) => ({ ...s, given: [...s.given] }));
    return () => {
      this.#shares = shares.map((s) => ({ ...s, given: [...s.given] }));
    };
  }

  #indexOf(asking: Asking): number {
    const n = this.#askings.get(keyOf(asking));
    if (n === undefined) throw new Error(`Nobody said that something would ask ${keyOf(asking)}.`);
    return n;
  }

  // The shortest way to goods that nobody was given: each step takes a share, from which whoever has it goes on to another.
  #pathFrom(who: number): Step[] | null {
    const came = new Map<number, Step | null>([[who, null]]);
    for (const from of came.keys()) {
      for (const [share, { fits, left, given }] of this.#shares.entries()) {
        if (fits[from] !== true) continue;
        if (left > 0) return wayBack(came, { from, share });
        for (const [other, has] of given.entries()) if (has > 0 && !came.has(other)) came.set(other, { from, share });
      }
    }
    return null;
  }

  #giveAlong(path: readonly Step[], open: Qty): Qty {
    const last = this.#shares[path.at(-1)?.share ?? 0] as Share<L>;
    let most = minQty(open, last.left);
    for (const [n, { share }] of path.slice(0, -1).entries())
      most = minQty(most, this.#shares[share]?.given[path[n + 1]?.from ?? 0] ?? ZERO);
    for (const [n, { from, share }] of path.entries()) {
      const given = (this.#shares[share] as Share<L>).given;
      given[from] = ((given[from] ?? 0) + most) as Qty;
      const next = path[n + 1];
      if (next) given[next.from] = subQty(given[next.from] ?? ZERO, most);
    }
    last.left = subQty(last.left, most);
    return most;
  }
}

const count = (fits: readonly boolean[]): number => fits.filter(Boolean).length;

function wayBack(came: ReadonlyMap<number, Step | null>, end: Step): Step[] {
  const path = [end];
  for (let step = came.get(end.from); step; step = came.get(step.from)) path.unshift(step);
  return path;
}
