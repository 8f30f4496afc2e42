import type { Response } from 'express';
import { formatQty, subQty, sumQty } from '#core/base';
import { shortSscc } from '#core/floor';
import { asQty, Paper, type House } from '#server/kernel';
import { selectHouse } from '#server/people';
import { findCarry, selectTasks, type TaskRow } from './store.ts';

const TITLE = { putAway: 'Put-away sheet', refill: 'Refill sheet' } as const;

/** The sheet of a put-away or refill round as PDF (I2, I5): what is taken where, then what goes where and why, each in the order of the
 *  way, with room for where it really went. Its code opens the round.
 *  Errors: `carrying.unknown`. */
export async function carrySheet(house: House, asked: { id: number }, res: Response): Promise<void> {
  const { db } = house;
  const carry = await findCarry(db, asked.id);
  const { company } = await selectHouse(db);
  const tasks = await selectTasks(db, carry.id);
  const title = TITLE[carry.kind];
  const paper = await Paper.open(res, {
    title,
    number: carry.number,
    company,
    file: `${title.toLowerCase().replace(' ', '-')}-${carry.number}.pdf`,
  });
  const bring = tasks.filter((t) => asQty(t.qty) > asQty(t.put));
  const take = carry.cart_bin === null ? [] : tasks.filter((t) => asQty(t.qty) > asQty(t.taken));
  const far = carry.metres === null ? '' : `, ${Math.round(carry.metres)} m`;
  paper.blocks([
    [`${carry.site}${carry.cart === null ? '' : `, ${carry.cart}`}`, carry.person ? `Walked by ${carry.person}` : ''],
    [`${bring.length} ${bring.length === 1 ? 'line' : 'lines'}${far}`, ''],
  ]);
  if (take.length > 0) {
    paper.table([
      { title: 'Take from', mm: 30 },
      { title: 'Item', mm: 92 },
      { title: 'Take', mm: 26, isRight: true },
      { title: 'Taken', mm: 26 },
    ]);
    let before = '';
    for (const t of inWay(take, carry.take_way, (x) => x.from_bin)) {
      paper.row([
        t.from === before ? '' : t.from,
        goodsOf(t),
        `${formatQty(subQty(asQty(t.qty), asQty(t.taken)))} ${t.unit}`,
        '__________',
      ]);
      before = t.from;
    }
    paper.note('Then put down:', 4);
  }
  paper.table([
    { title: 'Goes to', mm: 28 },
    { title: 'Item', mm: 66 },
    { title: 'How many', mm: 24, isRight: true },
    { title: '  Because', mm: 32 },
    { title: 'Put; where', mm: 24 },
  ]);
  let before = '';
  for (const t of inWay(bring, carry.put_way, (x) => x.to_bin)) {
    paper.row([
      t.to === before ? '' : t.to,
      goodsOf(t) + (carry.cart_bin === null ? `\nlies at ${t.from}` : ''),
      `${formatQty(subQty(asQty(t.qty), asQty(t.put)))} ${t.unit}`,
      `  ${t.why}`,
      '__________',
    ]);
    before = t.to;
  }
  paper.row(['', 'In all', formatQty(sumQty(bring.map((t) => subQty(asQty(t.qty), asQty(t.put))))), '', ''], true);
  paper.note('Carried by ____________________   Checked by ____________________', 10);
  paper.end();
}

const inWay = (tasks: readonly TaskRow[], way: readonly number[], binOf: (t: TaskRow) => number): TaskRow[] =>
  tasks.toSorted((a, b) => way.indexOf(binOf(a)) - way.indexOf(binOf(b)) || a.id - b.id);

const goodsOf = (t: TaskRow): string =>
  [
    t.sscc === null ? t.code : `Unit ${shortSscc(t.sscc)}, whole: ${t.code}`,
    t.description,
    [t.lot && `lot ${t.lot}`, t.expires && `expires ${t.expires}`, t.serial && `serial ${t.serial}`].filter(Boolean).join(', '),
  ]
    .filter(Boolean)
    .join('\n');
