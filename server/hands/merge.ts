import { randomUUID } from 'node:crypto';
import { happenedAt, jobOf, type Does, type Unreadable } from '#core/hands';
import { isAllowed } from '#core/people';
import type { ActIn, Outcome } from '#contract/hands';
import {
  announce,
  isPassing,
  refuse,
  Refusal,
  refusalOfConstraint,
  retrying,
  sentenceOf,
  takeChanges,
  underClaim,
  writeChanges,
  type Db,
  type DomainError,
  type House,
  type Trx,
} from '#server/kernel';
import { faultIn, readDoes } from './acts.ts';
import { perform } from './perform.ts';
import type { Device } from './device.ts';
import { insertAct, insertClash, selectAct, selectAuthor, selectTold, updateDocuments, type Author } from './store.ts';

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
  const { now, told: known } = await selectTold(
    house.db,
    told.acts.flatMap((a) => a.after ?? []),
  );
  for (const act of told.acts) {
    const does = readDoes(act.does);
    const job = `${act.site}/${jobOf(does)}`;
    if (stuck.has(job) || !(act.after === null || answered.has(act.after) || known.has(act.after.toLowerCase()))) {
      stuck.add(job);
      outcomes.push({ key: act.key, outcome: 'failed', says: null });
      continue;
    }
    const who = `${act.person}/${act.site}`;
    const author = authors.get(who) ?? (await findAuthor(house.db, act, told.device));
    authors.set(who, author);
    const at = new Date(happenedAt(act.doneAt, told.sentAt, now.getTime()));
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

type One = { device: Device; carrier: number; act: ActIn; does: Does | Unreadable; author: Author; at: Date };

// What goes through, as nearly all does, is one transaction without a savepoint. What does not is rolled back whole, and a second one
// keeps the act as a clash; a copy that came between the two is found by its key.
async function mergeOne(db: Db, one: One): Promise<Outcome> {
  try {
    return await once(db, one, (trx) => doAct(trx, one));
  } catch (error) {
    if (isPassing(error)) throw error;
    const refusal = refusalOf(error);
    return once(db, one, (trx) => keepClash(trx, one, refusal));
  }
}

/** Does something about an act under its key; says what became of it, where it was told before. */
async function once(db: Db, { device, carrier, act, does, at }: One, work: (trx: Trx) => Promise<Outcome>): Promise<Outcome> {
  const { key, seq, person, site } = act;
  const done = await underClaim(db, {
    claim: (trx) => insertAct(trx, { key, seq, person, site, does, at, job: jobOf(does), device: device.id, carrier }),
    work,
    last: (trx) => writeChanges(trx, takeChanges(trx, site)),
  });
  if (done) return done.value;
  const before = await selectAct(db, key);
  return { key, outcome: 'repeated', says: before?.refusal ? sentenceOf(before.refusal) : null };
}

async function doAct(trx: Trx, { device, carrier, act, does, author, at }: One): Promise<Outcome> {
  const { key, person, site } = act;
  if (!author.known || !author.active || !author.works || !isAllowed(author.role, ['lead', 'hand']))
    refuse({ code: 'hands.notTheirs', person: author.known ? 'no longer' : 'never' });
  if (does.kind === 'unreadable') return refuse({ code: 'hands.unreadable', fault: faultIn(act.does) });
  // A lead's powers are a lead's who is here: whoever carries a device may tell what a lead did on it, and no more than a hand may do.
  const role = author.role === 'lead' && carrier !== author.id ? 'hand' : author.role;
  const { documents } = await perform(trx, { key, does, site, person, role, device: device.name, at });
  await updateDocuments(trx, key, documents);
  return { key, outcome: 'done', says: null };
}

async function keepClash(trx: Trx, { act: { key, site } }: One, refusal: DomainError): Promise<Outcome> {
  await insertClash(trx, key, site, refusal);
  announce(trx, 'hands', { clash: key });
  return { key, outcome: 'clash', says: sentenceOf(refusal) };
}

function refusalOf(error: unknown): DomainError {
  if (error instanceof Refusal) return error.error;
  const incident = `${randomUUID().slice(0, 8)}: ${(error as Error).message.slice(0, 200)}`;
  return refusalOfConstraint(error) ?? { code: 'server.fault', incident };
}
