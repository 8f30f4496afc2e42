import { formatAmount, isWholeStep, ONE, parseAmount, sumAmounts, sumQty, worthOf, type Amount } from '#core/base';
import { needsLot, packToBase } from '#core/items';
import { qtyText } from '#contract/base';
import { announce, asQty, dbQty, lockRows, query, refuse, type RoomHandlers, type Trx } from '#server/kernel';
import { ensureSerials, findItemByScan, selectLot, selectSerial, type ScannedItem } from '#server/items';
import { findBin } from '#server/places';
import { makeCount, postCount, readDifferences } from './count.ts';
import {
  findCount,
  lockCount,
  lockOpenCount,
  selectCountBins,
  selectCounts,
  selectOpenInZone,
  selectTallies,
  takeOutTally,
  updateThrown,
  type CountListRow,
  type TallyRow,
} from './store.ts';

export const countingHandlers: RoomHandlers<'counting'> = {
  'counting.counts': async (db, { me }) => ({ counts: (await selectCounts(db, me.site.id)).map(countOut) }),
  'counting.make': (trx, { me, body }) => makeCount(trx, { zone: body.zone, blind: body.blind, site: me.site.id, person: me.id }),
  'counting.count': async (db, { params }) => {
    const count = await findCount(db, params.id);
    const tallies = await selectTallies(db, params.id);
    const bins = await selectCountBins(db, params.id);
    return {
      ...countOut(count),
      binList: bins.map((b) => {
        const own = tallies.filter((t) => t.bin === b.bin);
        return {
          bin: b.bin,
          address: b.address,
          verdict: b.verdict,
          counted: b.counted,
          tallies: own.map(tallyOut),
        };
      }),
    };
  },
  'counting.tally': async (trx, { me, params, body }) => {
    const { bin } = await openBin(trx, params.id, me.site.id, body.bin);
    const scanned = await findItemByScan(trx, body.code);
    const lotCode = body.lot || scanned.lot;
    const serialCode = body.serial || scanned.serialCode;
    if (needsLot(scanned.tracking) && !lotCode) refuse({ code: 'counting.lotWanted', item: scanned.code, bin: bin.address });
    const lot =
      lotCode && needsLot(scanned.tracking)
        ? ((await selectLot(trx, scanned.id, lotCode)) ?? refuse({ code: 'moves.unknownLot', item: scanned.code, lot: lotCode }))
        : null;
    const serial = scanned.tracking === 'serial' ? await serialFound(trx, params.id, scanned, serialCode) : null;
    const found = serial !== null ? ONE : (body.qty ?? scanned.labelled ?? packToBase(ONE, scanned.pack) ?? ONE);
    if (found < 0 || !isWholeStep(found, scanned.decimals))
      refuse({ code: 'stock.tooFine', text: qtyText(found), decimals: scanned.decimals });
    const [made] = await query<{ id: number }>(
      trx,
      `WITH said AS (UPDATE count_bin SET verdict = NULL, verdict_at = NULL WHERE count_id = ? AND bin_id = ?)
       INSERT INTO tally (count_id, bin_id, item_id, lot_id, serial_id, qty, person_id, device) VALUES (?, ?, ?, ?, ?, ?, ?, ?) RETURNING id`,
      [params.id, bin.id, params.id, bin.id, scanned.id, lot?.id ?? null, serial, dbQty(found), me.id, body.device ?? null],
    );
    announce(trx, 'counting', { count: params.id });
    const tallies = await selectTallies(trx, params.id);
    const own = tallies.find((t) => t.id === made?.id) as TallyRow;
    const together = tallies.filter((t) => t.bin === bin.id && t.item === scanned.id && t.lot_id === own.lot_id);
    return { tally: tallyOut(own), binTotal: qtyText(sumQty(together.map((t) => asQty(t.qty)))) };
  },
  'counting.takeOut': async (trx, { me, params }) => {
    const count = await lockOpenCount(trx, params.id, me.site.id);
    if (!(await takeOutTally(trx, params.id, params.tally)))
      refuse({ code: 'counting.unknownTally', id: params.tally, number: count.number });
    announce(trx, 'counting', { count: params.id });
    return { ok: true };
  },
  'counting.verdict': async (trx, { me, params, body }) => {
    const { bin, count } = await openBin(trx, params.id, me.site.id, body.bin);
    if (count.blind && body.verdict === 'asExpected') refuse({ code: 'counting.blind', number: count.number });
    // A verdict is about the whole bin: it begins the bin again.
    await query(trx, `UPDATE tally SET taken_out_at = now_here() WHERE count_id = ? AND bin_id = ? AND taken_out_at IS NULL`, [
      params.id,
      bin.id,
    ]);
    await query(trx, `UPDATE count_bin SET verdict = ?, verdict_at = now_here() WHERE count_id = ? AND bin_id = ?`, [
      body.verdict,
      params.id,
      bin.id,
    ]);
    announce(trx, 'counting', { count: params.id });
    return { ok: true };
  },
  'counting.differences': async (db, { params }) => {
    const count = await findCount(db, params.id);
    const differences = await readDifferences(db, params.id);
    const names = await query<{
      n: number;
      address: string;
      code: string;
      description: string;
      unit: string;
      cost: string;
      lot: string | null;
      serial: string | null;
    }>(
      db,
      `SELECT x.n, b.address, i.code, i.description, i.base_unit AS unit, amount_on(i.id, 'cost', (now_here() AT TIME ZONE w.time_zone)::date) AS cost, l.code AS lot, s.code AS serial FROM unnest(?::int[], ?::int[], ?::int[], ?::int[], ?::int[]) AS x(n, bin, item, lot, serial)
       JOIN bin b ON b.id = x.bin JOIN site w ON w.id = b.site_id JOIN item i ON i.id = x.item LEFT JOIN lot l ON l.id = x.lot LEFT JOIN serial s ON s.id = x.serial ORDER BY b.walk, b.id, i.code`,
      [
        differences.map((_, i) => i),
        differences.map((d) => d.bin),
        differences.map((d) => d.item),
        differences.map((d) => d.lot),
        differences.map((d) => d.serial),
      ],
    );
    const worths: Amount[] = [];
    const rows = names.map((name) => {
      const d = differences[name.n] as (typeof differences)[number];
      const worth = worthOf(parseAmount(name.cost), d.difference);
      worths.push(worth);
      return {
        bin: d.bin,
        address: name.address,
        item: d.item,
        code: name.code,
        description: name.description,
        unit: name.unit,
        lot: name.lot,
        serial: name.serial,
        expected: qtyText(d.expected),
        found: d.found === null ? null : qtyText(d.found),
        difference: qtyText(d.difference),
        value: formatAmount(worth),
        movedMeanwhile: d.moved,
        state: d.state,
      };
    });
    return { count: countOut(count), rows, value: formatAmount(sumAmounts(worths)) };
  },
  'counting.post': (trx, { me, params, body }) =>
    postCount(trx, { count: params.id, site: me.site.id, person: me.id, override: body.override }),
  'counting.throwAway': async (trx, { me, params }) => {
    await lockOpenCount(trx, params.id, me.site.id);
    await updateThrown(trx, params.id, true);
    announce(trx, 'counting', { count: params.id });
    return { ok: true };
  },
  'counting.takeUp': async (trx, { me, params }) => {
    const { zone_id } = await findCount(trx, params.id);
    await lockRows(trx, 'zone', [zone_id]);
    const count = await lockCount(trx, params.id, me.site.id);
    if (count.state !== 'thrown') refuse({ code: 'counting.notThrown', number: count.number });
    const other = await selectOpenInZone(trx, zone_id);
    if (other) refuse({ code: 'counting.zoneOpen', zone: count.zone, number: other.number });
    await updateThrown(trx, params.id, false);
    announce(trx, 'counting', { count: params.id });
    return { ok: true };
  },
};

async function openBin(trx: Trx, id: number, site: number, text: string) {
  const count = await lockOpenCount(trx, id, site);
  const bin = await findBin(trx, site, text);
  const [member] = await query(trx, `SELECT 1 FROM count_bin WHERE count_id = ? AND bin_id = ?`, [id, bin.id]);
  if (!member) refuse({ code: 'counting.binNotInCount', bin: bin.address, number: count.number });
  return { count, bin };
}

async function serialFound(trx: Trx, count: number, item: ScannedItem, code: string | null): Promise<number> {
  if (!code) return refuse({ code: 'counting.serialWanted', item: item.code });
  const known =
    (await selectSerial(trx, item.id, code))?.id ?? (await ensureSerials(trx, [{ item: item.id, code }])).get(`${item.id}|${code}`) ?? 0;
  const [twice] = await query(trx, `SELECT 1 FROM tally WHERE count_id = ? AND serial_id = ? AND taken_out_at IS NULL`, [count, known]);
  if (twice) refuse({ code: 'counting.serialTwice', item: item.code, serial: code });
  return known;
}

function countOut(c: CountListRow) {
  return {
    id: c.id,
    number: c.number,
    zone: c.zone,
    site: c.site,
    blind: c.blind,
    state: c.state,
    by: c.by,
    at: c.at.toISOString(),
    bins: c.bins,
    counted: c.counted,
  };
}

function tallyOut(t: TallyRow) {
  return {
    id: t.id,
    bin: t.bin,
    code: t.code,
    description: t.description,
    unit: t.unit,
    lot: t.lot,
    serial: t.serial,
    qty: qtyText(asQty(t.qty)),
    by: t.by,
    byId: t.by_id,
    at: t.at.toISOString(),
  };
}
