import { randomUUID } from 'node:crypto';
import { happenedAt, jobOf, type Does, type Unreadable } from '#core/hands';
import { isAllowed } from '#core/people';
import type { ActIn, Outcome } from '#contract/hands';
import {
  announce,
  isPassing,
  query,
  refuse,
  Refusal,
  refusalOfConstraint,
  retrying,
  sentenceOf,
  takeChanges,
  writeChanges,
  type Db,
  type DomainError,
  type House,
  type Trx,
} from '#server/kernel';
import { faultIn, readDoes } from './acts.ts';
import { perform } from './perform.ts';
import type { Device } from './device.ts';
import { insertAct, insertClash, isTold, selectAct, selectAuthor, updateDocuments, type Author } from './store.ts';

/** Takes what hands did on the floor into the house, each act once, in the order in which it was done.
 *  Shape:  one outcome for each act that was told, in their order. `done`; `repeated`, where it was told before; `clash`, kept for the
 *          lead with what stands against it; `failed`, where the server broke on it or an act before it is missing: the device keeps it
 *          and tells it again. Each act has a transaction of its own: what is done stays done, whatever becomes of the next.
 *  Locks:  those of the acts, one after the other. */
export async function mergeActs(
  house: House,
  told: { device: Device; carrier: number; sentAt: number; acts: readonly ActIn[] },
): Promise<Outcome[]> {
  const outcomes: Outcome[] = [];
  const stuck = new Set<string>();
  const answered = new Set<string>();
  const authors = new Map<string, Author>();
  const now = await houseNow(house.db);
  for (const act of told.acts) {
    const does = readDoes(act.does);
    const job = `${act.site}/${jobOf(does)}`;
    if (stuck.has(job) || !(act.after === null || answered.has(act.after) || (await isTold(house.db, act.after)))) {
      stuck.add(job);
      outcomes.push({ key: act.key, outcome: 'failed', says: null });
      continue;
    }
    const who = `${act.person}/${act.site}`;
    const author = authors.get(who) ?? (await findAuthor(house.db, act, told.device));
    authors.set(who, author);
    const at = new Date(happenedAt(act.doneAt, told.sentAt, now));
    try {
      outcomes.push(await retrying(() => mergeOne(house.db, { ...told, act, does, author, at })));
      answered.add(act.key);
    } catch (error) {
      if (!isPassing(error)) throw error;
      stuck.add(job);
      outcomes.push({ key: act.key, outcome: 'failed', says: null });
    }
  }
  house.outbox.nudge();
  return outcomes;
}

async function findAuthor(db: Db, { person, site }: ActIn, device: Device): Promise<Author> {
  const author = await selectAuthor(db, { person, site, device: device.id });
  if (!author) return refuse({ code: 'people.unknownPerson', id: person });
  if (!author.siteKnown) return refuse({ code: 'places.unknownSite', id: site });
  return author;
}

/** What time it is in the house, in milliseconds since 1970. */
export async function houseNow(db: Db): Promise<number> {
  const [row] = await query<{ now: Date }>(db, `SELECT now_here() AS now`);
  return row?.now.getTime() ?? Date.now();
}

type One = { device: Device; carrier: number; act: ActIn; does: Does | Unreadable; author: Author; at: Date };

// What goes through, as nearly all does, is one transaction without a savepoint. What does not is rolled back whole, and a second one
// keeps the act as a clash; a copy that came between the two is found by its key.
async function mergeOne(db: Db, one: One): Promise<Outcome> {
  try {
    return await db.transaction((trx) => doOnce(trx, one));
  } catch (error) {
    if (isPassing(error)) throw error;
    const refusal = refusalOf(error);
    return db.transaction(async (trx) => (await repeated(trx, one)) ?? keepClash(trx, one, refusal));
  }
}

/** Claims the act's key; what became of it, where it was claimed before. */
async function repeated(trx: Trx, { device, carrier, act, does, at }: One): Promise<Outcome | null> {
  const { key, seq, person, site } = act;
  if (await insertAct(trx, { key, seq, person, site, does, at, job: jobOf(does), device: device.id, carrier })) return null;
  const before = await selectAct(trx, key);
  return { key, outcome: 'repeated', says: before?.refusal ? sentenceOf(before.refusal) : null };
}

async function doOnce(trx: Trx, one: One): Promise<Outcome> {
  const told = await repeated(trx, one);
  if (told) return told;
  const { device, carrier, act, does, author, at } = one;
  const { key, person, site } = act;
  if (!author.known || !author.active || !author.works || !isAllowed(author.role, ['lead', 'hand']))
    refuse({ code: 'hands.notTheirs', person: author.known ? 'no longer' : 'never' });
  if (does.kind === 'unreadable') return refuse({ code: 'hands.unreadable', fault: faultIn(act.does) });
  // A lead's powers are a lead's who is here: whoever carries a device may tell what a lead did on it, and no more than a hand may do.
  const role = author.role === 'lead' && carrier !== author.id ? 'hand' : author.role;
  const { documents } = await perform(trx, { key, does, site, person, role, device: device.name, at });
  await updateDocuments(trx, key, documents);
  await writeChanges(trx, takeChanges(trx, site));
  return { key, outcome: 'done', says: null };
}

async function keepClash(trx: Trx, { act: { key, site } }: One, refusal: DomainError): Promise<Outcome> {
  await insertClash(trx, key, site, refusal);
  announce(trx, 'hands', { clash: key });
  await writeChanges(trx, takeChanges(trx, site));
  return { key, outcome: 'clash', says: sentenceOf(refusal) };
}

function refusalOf(error: unknown): DomainError {
  if (error instanceof Refusal) return error.error;
  const incident = `${randomUUID().slice(0, 8)}: ${(error as Error).message.slice(0, 200)}`;
  return refusalOfConstraint(error) ?? { code: 'server.fault', incident };
}
