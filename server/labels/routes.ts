import { composeLabel, type LabelRequest } from '#core/labels';
import { announce, query, refuse, type RoomHandlers, type Trx } from '#server/kernel';
import type { BodyOf, Routes } from '#contract';
import { findItem } from '#server/items';
import { drawLabel } from './draw.ts';

const MOST = 2000;
type Wanted = { title: string; request: LabelRequest; copies: number };

export const labelsHandlers: RoomHandlers<'labels'> = {
  'labels.print': async (trx, { me, body }) => {
    const wanted = await labelsWanted(trx, body, me.site.id);
    const labels = wanted.reduce((sum, w) => sum + w.copies, 0);
    if (labels > MOST) refuse({ code: 'labels.tooMany', asked: labels, most: MOST });
    await query(
      trx,
      `INSERT INTO print_job (title, svg, copies, person_id) SELECT t, s, c, ? FROM unnest(?::text[], ?::text[], ?::int[]) AS x(t, s, c)`,
      [me.id, wanted.map((w) => w.title), wanted.map((w) => drawLabel(composeLabel(w.request))), wanted.map((w) => w.copies)],
    );
    announce(trx, 'labels');
    return { jobs: wanted.length, labels };
  },
  'labels.jobs': async (db) => {
    const rows = await query<{
      id: number;
      title: string;
      copies: number;
      state: 'waiting' | 'printed' | 'failed';
      said: string | null;
      by: string;
      at: Date;
      svg: string;
    }>(
      db,
      `SELECT j.id, j.title, j.copies, j.state, j.said, p.name AS by, j.at, j.svg FROM print_job j JOIN person p ON p.id = j.person_id ORDER BY j.id DESC LIMIT 40`,
    );
    return { jobs: rows.map((r) => ({ ...r, at: r.at.toISOString() })) };
  },
  'labels.again': async (trx, { params }) => {
    const rows = await query(trx, `UPDATE print_job SET state = 'waiting', next_try = now(), tries = 0 WHERE id = ? RETURNING 1`, [
      params.id,
    ]);
    if (rows.length === 0) refuse({ code: 'labels.unknownJob', id: params.id });
    announce(trx, 'labels');
    return { ok: true };
  },
};

async function labelsWanted(trx: Trx, body: BodyOf<Routes['labels.print']>, site: number): Promise<Wanted[]> {
  switch (body.kind) {
    case 'bins': {
      const bins = await query<{ address: string; zone: string; site: string }>(
        trx,
        `SELECT b.address, z.name AS zone, s.name AS site FROM bin b JOIN zone z ON z.id = b.zone_id JOIN site s ON s.id = b.site_id WHERE b.id = ANY(?::int[]) ORDER BY b.walk, b.id`,
        [body.bins],
      );
      if (bins.length === 0) refuse({ code: 'places.unknownBin', text: body.bins.join(', ') });
      return bins.map((b) => ({ title: `Bin ${b.address}`, request: { kind: 'bin', ...b }, copies: 1 }));
    }
    case 'item': {
      const { copies, lot, serial } = body;
      const item = await findItem(trx, body.item);
      const [known] = lot
        ? await query<{ expires: string | null }>(trx, `SELECT expires FROM lot WHERE item_id = ? AND code = ?`, [item.id, lot])
        : [];
      return [await itemLabel(trx, item, { lot: lot || null, expires: known?.expires ?? null, serial: serial || null, copies })];
    }
    case 'order': {
      const [order] = await query<{ number: string; customer: string }>(
        trx,
        `SELECT o.number, c.name AS customer FROM customer_order o JOIN customer c ON c.id = o.customer_id WHERE o.id = ?`,
        [body.order],
      );
      if (!order) return refuse({ code: 'orders.unknownOrder', text: String(body.order) });
      return [{ title: `Order ${order.number}`, request: { kind: 'order', ...order }, copies: 1 }];
    }
    case 'delivery': {
      const entries = await query<{
        id: number;
        lot: string | null;
        expires: string | null;
        serial: string | null;
        copies: number;
        site_id: number;
      }>(
        trx,
        `SELECT e.item_id AS id, e.lot, max(e.expires) AS expires, e.serial, ceil(sum(e.qty))::int AS copies, d.site_id FROM delivery_entry e JOIN delivery d ON d.id = e.delivery_id
         WHERE d.id = ? AND d.site_id = ? AND e.taken_out_at IS NULL GROUP BY e.item_id, e.lot, e.serial, d.site_id ORDER BY e.item_id, e.lot, e.serial`,
        [body.delivery, site],
      );
      if (entries.length === 0) refuse({ code: 'receiving.unknownDelivery', id: body.delivery });
      const labels: Wanted[] = [];
      for (const entry of entries) labels.push(await itemLabel(trx, await findItem(trx, entry.id), entry));
      return labels;
    }
  }
}

async function itemLabel(
  trx: Trx,
  item: { id: number; code: string; description: string },
  of: { lot: string | null; expires: string | null; serial: string | null; copies: number },
): Promise<Wanted> {
  const [code] = await query<{ code: string }>(
    trx,
    `SELECT c.code FROM barcode c JOIN pack p ON p.id = c.pack_id WHERE c.item_id = ? ORDER BY p.units, c.code LIMIT 1`,
    [item.id],
  );
  const [company] = await query<{ value: string }>(trx, `SELECT value FROM setting WHERE name = 'company'`);
  const which = of.serial ? ` ${of.serial}` : of.lot ? ` lot ${of.lot}` : '';
  return {
    title: `${item.code}${which}`,
    copies: Math.max(1, of.copies),
    request: {
      kind: 'item',
      code: item.code,
      description: item.description,
      barcode: code?.code ?? null,
      company: company?.value ?? '',
      price: null,
      lot: of.lot,
      expires: of.expires,
      serial: of.serial,
    },
  };
}
