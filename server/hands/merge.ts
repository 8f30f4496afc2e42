import { randomUUID } from 'node:crypto';
import { happenedAt, jobOf, type Does, type Unreadable } from '#core/hands';
import { isAllowed } from '#core/people';
import type { ActIn, Outcome } from '#contract/hands';
import {
  announce,
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
import { insertAct, insertClash, isTold, selectAct, selectAuthor, updateDocuments } from './store.ts';

/** Takes what hands did on the floor into the house, each act once, in the order in which it was done.
 *  Shape:  one outcome for each act that was told, in their order. `done`; `repeated`, where it was told before; `clash`, kept for the lead with what
 *          stands against it; `failed`, where the server broke on it or an act before it is missing: the device keeps it and tells it again.
 *          Each act has a transaction of its own: what is done stays done, whatever becomes of the next.
 *  Locks:  those of the acts, one after the other. */
export async function mergeActs(
  house: House,
  told: { device: Device; carrier: number; sentAt: number; acts: readonly ActIn[] },
): Promise<Outcome[]> {
  const outcomes: Outcome[] = [];
  const stuck = new Set<string>();
  const now = await houseNow(house.db);
  for (const act of told.acts) {
    const does = readDoes(act.does);
    const job = `${act.site}/${jobOf(does)}`;
    if (stuck.has(job) || (act.after !== null && !(await isTold(house.db, act.after)))) {
      stuck.add(job);
      outcomes.push({ key: act.key, outcome: 'failed', says: null });
      continue;
    }
    const at = new Date(happenedAt(act.doneAt, told.sentAt, now));
    try {
      outcomes.push(await retrying(() => mergeOne(house.db, { ...told, act, does, at })));
    } catch (error) {
      if (!isPassing(error)) throw error;
      stuck.add(job);
      outcomes.push({ key: act.key, outcome: 'failed', says: null });
    }
  }
  house.outbox.nudge();
  return outcomes;
}

/** Whether an error is of the moment: the database is away, or a wait was too long. Told again it may go through. */
function isPassing(error: unknown): boolean {
  const { code, name } = error as { code?: string; name?: string };
  return (
    name === 'KnexTimeoutError' || /^(ECONN|EPIPE|08|40|53|55|57)/.test(code ?? '') || /terminated|ended/.test((error as Error).message)
  );
}

/** What time it is in the house, in milliseconds since 1970. */
export async function houseNow(db: Db): Promise<number> {
  const [row] = await query<{ now: Date }>(db, `SELECT now_here() AS now`);
  return row?.now.getTime() ?? Date.now();
}

type One = { device: Device; carrier: number; act: ActIn; does: Does | Unreadable; at: Date };

function mergeOne(db: Db, { device, carrier, act, does, at }: One): Promise<Outcome> {
  return db.transaction(async (outer) => {
    const { key, seq, person, site } = act;
    const author = await selectAuthor(outer, { person, site, device: device.id });
    if (!author) return refuse({ code: 'people.unknownPerson', id: person });
    if (!author.siteKnown) return refuse({ code: 'places.unknownSite', id: site });
    // A lead's powers are a lead's who is here: whoever carries a device may tell what a lead did on it, and no more than a hand may do.
    const role = author.role === 'lead' && carrier !== author.id ? 'hand' : author.role;
    const kept = { key, seq, person, site, does, at, job: jobOf(does), device: device.id, carrier };
    if (!(await insertAct(outer, kept))) {
      const before = await selectAct(outer, key);
      return { key, outcome: 'repeated', says: before?.refusal ? sentenceOf(before.refusal) : null };
    }
    try {
      const changes = await outer.transaction(async (inner) => {
        if (!author.known || !author.active || !author.works || !isAllowed(author.role, ['lead', 'hand']))
          refuse({ code: 'hands.notTheirs', person: author.known ? 'no longer' : 'never' });
        if (does.kind === 'unreadable') return refuse({ code: 'hands.unreadable', fault: faultIn(act.does) });
        const { documents } = await perform(inner, { key, does, site, person, role, device: device.name, at });
        await updateDocuments(inner, key, documents);
        return takeChanges(inner);
      });
      await writeChanges(outer, changes);
      return { key, outcome: 'done', says: null };
    } catch (error) {
      if (isPassing(error)) throw error;
      const refusal: DomainError =
        error instanceof Refusal
          ? error.error
          : (refusalOfConstraint(error) ?? {
              code: 'server.fault',
              incident: `${randomUUID().slice(0, 8)}: ${(error as Error).message.slice(0, 200)}`,
            });
      return clash(outer, key, site, refusal);
    }
  });
}

async function clash(outer: Trx, key: string, site: number, refusal: DomainError): Promise<Outcome> {
  await insertClash(outer, key, site, refusal);
  announce(outer, 'hands', { clash: key });
  await writeChanges(outer, takeChanges(outer));
  return { key, outcome: 'clash', says: sentenceOf(refusal) };
}
