import { randomUUID } from 'node:crypto';
import { formatAmount, ONE, parseAmount, sumAmounts, sumQty, worthOf, type Amount } from '#core/base';
import { packToBase } from '#core/items';
import { qtyText } from '#contract/base';
import { announce, asQty, lockRows, query, refuse, type RoomHandlers } from '#server/kernel';
import { findItemByScan, refuseUnreadLots } from '#server/items';
import { findBin } from '#server/places';
import { enterTally, sayOfBin } from './tally.ts';
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
    await lockOpenCount(trx, params.id, me.site.id);
    const bin = await findBin(trx, me.site.id, body.bin);
    const scanned = await findItemByScan(trx, body.code);
    await refuseUnreadLots(trx, [{ item: scanned.id, lot: body.lot }]);
    const id = await enterTally(trx, {
      key: randomUUID(),
      count: params.id,
      site: me.site.id,
      person: me.id,
      device: body.device ?? null,
      at: null,
      bin,
      item: scanned,
      lot: body.lot || scanned.lot,
      expires: body.expires ?? scanned.expires,
      serial: body.serial || scanned.serialCode,
      sscc: null,
      qty: body.qty ?? scanned.labelled ?? packToBase(ONE, scanned.pack) ?? ONE,
    });
    const together = await selectTallies(trx, params.id, { bin: bin.id, item: scanned.id });
    const own = together.find((t) => t.id === id) as TallyRow;
    return { tally: tallyOut(own), binTotal: qtyText(sumQty(together.filter((t) => t.lot_id === own.lot_id).map((t) => asQty(t.qty)))) };
  },
  'counting.takeOut': async (trx, { me, params }) => {
    const count = await lockOpenCount(trx, params.id, me.site.id);
    if (!(await takeOutTally(trx, params.id, params.tally)))
      refuse({ code: 'counting.unknownTally', id: params.tally, number: count.number });
    announce(trx, 'counting', { count: params.id });
    return { ok: true };
  },
  'counting.verdict': async (trx, { me, params, body }) => {
    await lockOpenCount(trx, params.id, me.site.id);
    const bin = await findBin(trx, me.site.id, body.bin);
    await sayOfBin(trx, { count: params.id, site: me.site.id, bin, verdict: body.verdict, at: null });
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
      `SELECT x.n, b.address, i.code, i.description, i.base_unit AS unit,
         amount_on(i.id, 'cost', today_in(w.time_zone)) AS cost, l.code AS lot, s.code AS serial
       FROM unnest(?::int[], ?::int[], ?::int[], ?::int[], ?::int[]) AS x(n, bin, item, lot, serial)
       JOIN bin b ON b.id = x.bin
       JOIN site w ON w.id = b.site_id
       JOIN item i ON i.id = x.item
       LEFT JOIN lot l ON l.id = x.lot
       LEFT JOIN serial s ON s.id = x.serial
       ORDER BY b.walk, b.id, i.code`,
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
