import { createHash } from 'node:crypto';
import { sumQty, writeDay, ZERO, type Qty } from '#core/base';
import { foldName } from '#core/floor';
import { codesOf, judgeOrderPaper, PAPER_WAITS, type OrderedItem, type OrderPaper, type SentOrder } from '#core/orders';
import { announce, askHelper, refuse, type DroppedFile, type Trx } from '#server/kernel';
import {
  addLines,
  changeHead,
  checkLines,
  findOrder,
  lockOpenOrder,
  makeOrder,
  reopenPacking,
  selectKnownForOrders,
  selectMaking,
  selectOnItsWay,
  updateHeldFor,
} from '#server/orders';
import { cancelOrder, changeLine } from '#server/picking';
import { insertPaper, lockPaper, lockPapers, selectLines, selectOrderOf, selectPaperOf, updatePaper } from './store.ts';

/** The faults that are told; a file with more is wrong as a whole. */
const MOST_FAULTS = 20;
/** Who does it: a person at the desk, or nobody, where it came by itself. */
type By = { readonly site: number; readonly person: number | null };
export type Taken = { paper: number; order: number; number: string; says: string; isNew: boolean };

export const contentsOf = (bytes: Buffer): string => createHash('sha256').update(bytes).digest('hex');

/** What a file says, read by a helper. Errors: `channel.badPaper`. */
export const readPaper = (file: DroppedFile): Promise<OrderPaper> =>
  askHelper<OrderPaper>(
    'orderPaper',
    { name: file.name, bytes: new Uint8Array(file.bytes) },
    { what: `Reading ${file.name}`, most: 30_000 },
  );

/** Takes in what another program sent of an order (F2): a new one, a change, a cancellation; all of it, or nothing.
 *  Shape:  the same file again is the same paper. What changes an order that somebody is at waits for a person, and the order is held
 *          meanwhile: nobody goes on picking, packing or shipping what is wanted no more.
 *  Errors: a file that cannot be read; all that `judgeOrderPaper` finds; a change of an order that is not here, has ended, or is another
 *          site's.
 *  Locks:  papers, against each other; then the order, and what a change of it locks. */
export async function takePaper(trx: Trx, by: By & { file: DroppedFile }): Promise<Taken> {
  const { file, site, person } = by;
  const read = await readPaper(file);
  const contents = contentsOf(file.bytes);
  await lockPapers(trx);
  const before = await selectPaperOf(trx, contents);
  if (before) return { paper: before.id, order: before.order, number: before.number, says: before.says, isNew: false };
  const { order, out, customers } = await judge(trx, site, file.name, read);
  const keep = async (of: { id: number; number: string }, state: 'done' | 'waiting', says: string): Promise<Taken> => {
    const paper = await insertPaper(trx, { file: file.name, contents, read, site, order: of.id, person, state, says });
    announce(trx, 'orders', { order: of.id });
    return { paper, order: of.id, number: of.number, says, isNew: true };
  };
  if (read.kind === 'order' && order) {
    const made = await makeOrder(trx, {
      ...{ ...order, kind: 'customer', leastLife: null, extras: [], site },
      source: person === null ? 'channel' : 'file',
    });
    return keep(made, 'done', `Entered as ${made.number}.`);
  }
  const there = await selectOrderOf(trx, { customers, reference: read.reference });
  if (!there) return refuse({ code: 'channel.noSuchOrder', reference: read.reference, customer: read.customer.at(-1) ?? '' });
  const open = await lockOpenOrder(trx, there.id, site);
  if (read.kind !== 'order' && (await isAtWork(trx, there.id))) {
    if (open.held_for === null) await updateHeldFor(trx, there.id, PAPER_WAITS[read.kind]);
    return keep(there, 'waiting', `${there.number} is on a round or in somebody’s hands. It is held until somebody says what happens.`);
  }
  return keep(there, 'done', await perform(trx, by, there, { read, order, out }));
}

/** Lets a paper that waits go ahead, as whoever says so; or puts it aside, and the order goes on as it is.
 *  Errors: `channel.unknownPaper`, `channel.notOpen`, an order that has ended meanwhile, what a change refuses. */
export async function settlePaper(
  trx: Trx,
  by: { site: number; person: number; paper: number; how: 'do' | 'aside' },
): Promise<{ says: string }> {
  const paper = await lockPaper(trx, by.paper);
  if (!paper || (paper.site !== null && paper.site !== by.site)) return refuse({ code: 'channel.unknownPaper', id: by.paper });
  const { state, order: id, paper: read } = paper;
  if (state !== 'waiting' && !(state === 'refused' && by.how === 'aside'))
    refuse({ code: 'channel.notOpen', state: { done: 'done', aside: 'put aside', refused: 'refused', waiting: '' }[state] });
  let says: string | null = null;
  if (state === 'waiting' && id !== null && read !== null && read.kind !== 'order') {
    const judged = by.how === 'do' ? await judge(trx, by.site, `The paper on ${read.reference}`, read) : null;
    const order = await lockOpenOrder(trx, id, by.site);
    // Who held it for another reason holds it still.
    if (order.held_for === PAPER_WAITS[read.kind]) await updateHeldFor(trx, id, null);
    if (judged) says = await perform(trx, by, order, { read, ...judged });
    announce(trx, 'orders', { order: id });
  }
  await updatePaper(trx, by.paper, { state: by.how === 'do' ? 'done' : 'aside', says, person: by.person });
  announce(trx, 'orders');
  return { says: says ?? 'It is put aside.' };
}

async function judge(
  trx: Trx,
  site: number,
  name: string,
  read: OrderPaper,
): Promise<{ order: SentOrder | null; out: readonly OrderedItem[]; customers: number[] }> {
  const known = await selectKnownForOrders(trx, site, {
    lots: read.lines.flatMap((l) => l.lot ?? []),
    serials: read.lines.flatMap((l) => l.serials),
  });
  const { order, out, faults } = judgeOrderPaper(read, known);
  if (faults.length > 0) refuse({ code: 'channel.paperFaults', name, faults: faults.slice(0, MOST_FAULTS), more: faults.length });
  return { order, out, customers: read.customer.flatMap((c) => known.customers.get(foldName(c)) ?? []) };
}

// Somebody is at it, or at the kits that are made for it.
async function isAtWork(trx: Trx, order: number): Promise<boolean> {
  for (const id of [order, ...(await selectMaking(trx, order)).map((m) => m.id)]) if (await selectOnItsWay(trx, id)) return true;
  return false;
}

type Judged = { read: OrderPaper; order: SentOrder | null; out: readonly OrderedItem[] };

async function perform(trx: Trx, by: By, of: { id: number; number: string }, judged: Judged): Promise<string> {
  const { read } = judged;
  if (read.kind === 'cancellation') {
    const reason = read.note.trim() === '' ? 'Its customer cancelled it' : `Its customer: ${read.note.trim()}`;
    const { pieces, bin, also } = await cancelOrder(trx, {
      order: of.id,
      site: by.site,
      person: by.person,
      reason: reason.slice(0, MOST_REASON),
    });
    const withIt = also.length === 0 ? '' : `, and ${also.join(', ')} with it`;
    return `${of.number} is cancelled${withIt}.${bin === null ? '' : ` ${pieces} pieces went back to ${bin}, to be put away.`}`;
  }
  const due = await changeDue(trx, of.id, judged);
  const did = [...due, ...(await changeLines(trx, by, of.id, judged))];
  return `${of.number} is changed: ${sayLines(read)}. ${did.join(' ')}`.trim();
}

// The first few lines, as the paper says them.
function sayLines({ lines }: OrderPaper): string {
  const named = lines.slice(0, MOST_LINES_SAID).map((l) => {
    const code = codesOf(l)[0] ?? l.name;
    return l.isOut ? `no ${code}` : `${l.qty} ${code}`;
  });
  const more = lines.length - named.length;
  return [...named, ...(more > 0 ? [`${more} more`] : [])].join(', ');
}
const MOST_LINES_SAID = 4;
const MOST_REASON = 200;

// A day that the paper names is the order's from now on. Before its lines: where goods must keep, it asks for all of their locks.
async function changeDue(trx: Trx, id: number, { read, order: sent }: Judged): Promise<string[]> {
  const order = await findOrder(trx, id);
  if (read.due === null || !sent || sent.due === order.due) return [];
  await changeHead(trx, order, { ...order, due: sent.due, leastLife: order.least_life });
  return [`It is due on ${writeDay(sent.due)}.`];
}

// What the paper names is as it says from now on; what it does not name stays as it is.
async function changeLines(trx: Trx, by: By, order: number, { order: sent, out }: Judged): Promise<string[]> {
  const lines = await selectLines(trx, order);
  const did: string[] = [];
  const changes: { line: number; qty: Qty; item: number }[] = out.flatMap((i) =>
    lines.filter((l) => l.item === i.item).map((l) => ({ line: l.id, qty: ZERO, item: i.item as number })),
  );
  const added: SentOrder['lines'][number][] = [];
  for (const line of sent?.lines ?? []) {
    const same = lines.filter((l) => l.item === line.item && (l.lot ?? undefined) === line.lot);
    const [first, ...more] = same;
    if (!first || line.serials) added.push(line);
    else
      changes.push(
        { line: first.id, qty: line.qty, item: line.item },
        ...more.map((m) => ({ line: m.id, qty: ZERO, item: line.item as number })),
      );
    // New serials stand in a line of their own, in place of what stood there.
    if (line.serials) changes.push(...same.map((m) => ({ line: m.id, qty: ZERO, item: line.item as number })));
  }
  // In the order in which stock is locked.
  for (const { line, qty } of changes.toSorted((a, b) => a.item - b.item || a.line - b.line))
    did.push(...(await changeLine(trx, { order, line, qty, site: by.site, person: by.person })).did);
  if (added.length > 0) {
    await checkLines(trx, added);
    await addLines(trx, { id: order, site: by.site }, added);
    await reopenPacking(trx, [order]);
    did.push(
      `${added.length === 1 ? 'A line is' : `${added.length} lines are`} added: ${String(sumQty(added.map((a) => a.qty)) / 1000)} pieces.`,
    );
  }
  return did;
}
