import { formatQty, type LineId, type Qty } from '#core/base';
import { REFILL_WHY } from '#core/carrying';
import { chooseAsked, type AskedWant } from '#core/picking';
import { wayOfCarry } from '#core/routing';
import { ASKS_NOTHING } from '#core/stock';
import { makeDocument, query, refuse, type Trx } from '#server/kernel';
import { lockFreeCart, readKept } from '#server/picking';
import { readFloor } from '#server/places';
import { lockStock } from '#server/stock';
import { readWantingFaces, type WantingFace } from './faces.ts';
import { insertCarry, selectWayBins, type NewTask } from './store.ts';

/** Makes one walk that fills the pick faces which want more (I5): goods come from reserve, what expires first first, over as few stops as
 *  can be, onto a cart and from it into the faces. What somebody was promised out of a certain bin stays there.
 *  Shape:  `only`: these faces; `missing`: what no reserve has for them.
 *  Errors: `carrying.nothingToRefill`; `carrying.noCart`.
 *  Locks:  the items at the site, then a free cart: two people who make rounds of the same goods take turns. */
export async function makeRefillRound(
  trx: Trx,
  command: {
    site: number;
    siteName: string;
    person: number;
    takenBy: number | null;
    only?: readonly { item: number; bin: number }[] | undefined;
  },
): Promise<{ id: number; number: string; lines: number; missing: { code: string; bin: string; qty: string }[] }> {
  const { site } = command;
  const wanted = [...new Set((await readWantingFaces(trx, site, command.only)).map((f) => f.face.item as number))];
  await lockStock(
    trx,
    wanted.map((item) => ({ item, site })),
  );
  // Once more, now that nobody else can plan the same goods.
  const faces = (await readWantingFaces(trx, site, command.only)).filter((f) => wanted.includes(f.face.item));
  const items = [...new Set(faces.map((f) => f.face.item as number))];
  const kept = (await readKept(trx, site, items)).filter((k) => k.asking.bin !== null);
  const wants = faces.map((f, n): AskedWant => ({ line: n as LineId, item: f.face.item, qty: f.qty, asking: ASKS_NOTHING }));
  const reserve = [...new Map(faces.map((f) => [f.face.item, f.reserve])).values()].flat();
  const { picks, missing } = chooseAsked(wants, reserve, kept);
  if (picks.length === 0) return refuse({ code: 'carrying.nothingToRefill', site: command.siteName, low: faces.length });
  const tasks = picks.map((p): NewTask => {
    const { face, why } = faces[p.line] as WantingFace;
    return {
      ...{ item: p.item, from: p.bin, lot: p.lot, serial: null, unit: null, condition: 'sound' },
      ...{ qty: p.qty, to: face.bin, why: REFILL_WHY[why] },
    };
  });
  const cart = await lockFreeCart(trx, site);
  if (cart === null) return refuse({ code: 'carrying.noCart', site: command.siteName });
  const ids = new Set(tasks.flatMap((t) => [t.from, t.to]));
  const bins = await selectWayBins(trx, [...ids, cart]);
  const way = wayOfCarry(await readFloor(trx, site), {
    home: (await selectHome(trx, site)) ?? bins.find((b) => b.id === cart) ?? null,
    takes: bins.filter((b) => tasks.some((t) => t.from === b.id)),
    puts: bins.filter((b) => tasks.some((t) => t.to === b.id)),
  });
  const document = await makeDocument(trx, 'carry', { site, person: command.person });
  const id = await insertCarry(trx, {
    ...{ kind: 'refill', number: document.number, document: document.id, site, cart, walker: command.takenBy },
    ...{ person: command.person, tasks, way },
  });
  return {
    id,
    number: document.number,
    lines: tasks.length,
    missing: await named(trx, faces, missing),
  };
}

// Where a cart stands when nobody walks with it: at the bench.
async function selectHome(trx: Trx, site: number): Promise<{ id: number; zone: number; address: string } | null> {
  const rows = await query<{ id: number; zone: number; address: string }>(
    trx,
    `SELECT b.id, b.zone_id AS zone, b.address FROM bin b JOIN site s ON s.packing_bin = b.id WHERE s.id = ?`,
    [site],
  );
  return rows[0] ?? null;
}

async function named(
  trx: Trx,
  faces: readonly WantingFace[],
  missing: readonly { line: LineId; qty: Qty }[],
): Promise<{ code: string; bin: string; qty: string }[]> {
  const codes = await query<{ id: number; code: string }>(trx, `SELECT id, code FROM item WHERE id = ANY(?::int[])`, [
    faces.map((f) => f.face.item),
  ]);
  return missing.map((m) => {
    const { face, address } = faces[m.line] as WantingFace;
    const code = codes.find((c) => c.id === face.item)?.code ?? '';
    return { code, bin: address, qty: formatQty(m.qty) };
  });
}
