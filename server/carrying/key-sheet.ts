import { randomUUID } from 'node:crypto';
import { addQty, formatQty, isWholeStep, ONE, subQty, sumQty, ZERO, type Qty } from '#core/base';
import type { CarryTrouble } from '#core/carrying';
import { needsSerialOnArrival } from '#core/items';
import { qtyText } from '#contract/base';
import { asQty, lockRows, refuse, type Trx } from '#server/kernel';
import { findBin } from '#server/places';
import { lockStock } from '#server/stock';
import { carryStateWord, putFromCarry, reportCarryTrouble, takeOnCart } from './carry.ts';
import { lockCarryAt, selectOnCart, selectTasks, type TaskRow } from './store.ts';

/** What somebody wrote beside a line of the sheet. */
export type KeyedTask = {
  readonly task: number;
  readonly put: Qty;
  readonly to: string;
  readonly serials: readonly string[];
  readonly why: CarryTrouble;
};

/** Posts what came back on the sheet of a put-away or refill round (I2): what was really done, so also where it really lies. All of it, or
 *  nothing.
 *  Shape:  `lines`: any of the open ones; a line that is left out stays open. What was brought of a line in fewer pieces ends it, for its
 *          reason.
 *  Errors: a round that has ended; a line that is not on it, or stands there twice; more than was to be brought; a bin from which orders go
 *          out; serials that are not as many as the pieces; what a scan would be refused for.
 *  Locks:  the round, its units, its items, then what `post` locks: all of them before the first piece moves. */
export async function keyCarrySheet(
  trx: Trx,
  command: { carry: number; site: number; person: number; override: string | undefined; lines: readonly KeyedTask[] },
): Promise<{ pieces: string; short: number }> {
  const carry = await lockCarryAt(trx, command.carry, command.site);
  if (carry.state !== 'open') refuse({ code: 'carrying.ended', number: carry.number, state: carryStateWord(carry.state) });
  const tasks = await selectTasks(trx, carry.id);
  await lockRows(
    trx,
    'unit',
    tasks.flatMap((t) => t.unit_id ?? []),
  );
  await lockStock(
    trx,
    [...new Set(tasks.map((t) => t.item))].map((item) => ({ item, site: command.site })),
  );
  let pieces = ZERO;
  let short = 0;
  const riding = await selectOnCart(trx, carry.id);
  const keyed = new Set<number>();
  for (const line of command.lines) {
    const task = tasks.find((t) => t.id === line.task) ?? refuse({ code: 'carrying.unknownTask', number: carry.number });
    if (keyed.has(task.id)) refuse({ code: 'carrying.keyedTwice', item: task.code, number: carry.number });
    keyed.add(task.id);
    const open = subQty(asQty(task.qty), asQty(task.put));
    const put = task.sscc !== null && line.put > 0 ? open : line.put;
    if (!isWholeStep(put, task.decimals)) refuse({ code: 'stock.tooFine', text: formatQty(put), decimals: task.decimals });
    if (put > open) refuse({ code: 'carrying.tooMany', item: task.code, asked: formatQty(put), open: formatQty(open), way: 'put' });
    const to = await findBin(trx, command.site, line.to);
    const own = riding.filter((r) => r.task_id === task.id);
    for (const part of partsOf(task, put, line.serials)) {
      const act = { ...command, ...part, key: randomUUID(), device: null, at: null, told: true, task: task.id };
      // What was scanned onto the cart before the sheet was written is taken already.
      const onCart = sumQty(own.filter((r) => part.serial === null || r.serial === part.serial).map((r) => asQty(r.qty)));
      if (carry.cart_bin !== null && part.qty > onCart) await takeOnCart(trx, { ...act, key: randomUUID(), qty: subQty(part.qty, onCart) });
      await putFromCarry(trx, { ...act, to });
      pieces = addQty(pieces, part.qty);
    }
    // What still rides on the cart is put down yet; only what never came onto it is short.
    if (put < open && put >= sumQty(own.map((r) => asQty(r.qty)))) {
      short += 1;
      await reportCarryTrouble(trx, { ...command, device: null, at: null, told: true, task: task.id, trouble: line.why });
    }
  }
  return { pieces: qtyText(pieces), short };
}

// Serials go one by one.
function partsOf(task: TaskRow, put: Qty, serials: readonly string[]): { serial: string | null; qty: Qty }[] {
  if (put <= 0) return [];
  if (task.sscc !== null || !needsSerialOnArrival(task.tracking) || task.serial !== null) return [{ serial: task.serial, qty: put }];
  if (new Set(serials).size !== serials.length || formatQty(put) !== String(serials.length))
    refuse({ code: 'carrying.serialsKeyed', item: task.code, serials: new Set(serials).size, pieces: formatQty(put) });
  return serials.map((serial) => ({ serial, qty: ONE }));
}
