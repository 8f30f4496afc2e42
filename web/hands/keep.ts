import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { FactKind, FactPart } from '#contract/hands';
import { NEW_META, type KeptAct, type Meta, type Taken } from './kept.ts';
import type { Row } from './world.ts';

/** What outlives a reload. Each call is one transaction: all of it is kept, or the call fails and nothing is. */
export interface Keep {
  /** False where the browser keeps nothing: the device then works with a connection only. */
  readonly lasting: boolean;
  load(): Promise<{ meta: Meta; acts: KeptAct[]; ats: Map<string, unknown> }>;
  /** Another program goes on here: forgets where hands stood, and keeps the acts and who is who. */
  beginProgram(program: string): Promise<void>;
  /** Keeps acts together with where the hand stands then, before the tone sounds. Gives each its number; returns them as kept. */
  done(acts: readonly Omit<KeptAct, 'seq'>[], at: { job: string; value: unknown }): Promise<KeptAct[]>;
  /** Changes acts that are kept; null takes one away. */
  change(acts: readonly { key: string; to: KeptAct | null }[]): Promise<void>;
  meta(change: Partial<Omit<Meta, 'seq'>>): Promise<void>;
  facts(site: number): Promise<{ taken: Taken; parts: FactPart[] } | null>;
  /** Keeps what changed of a site's facts since a revision, with what became of acts that are in them now. `since` null: it is everything,
   *  and what was kept before is thrown away. False, and nothing is kept, where the device keeps another revision than that: changes on
   *  top of it would leave holes. */
  takeFacts(
    site: number,
    change: { taken: Taken; parts: readonly FactPart[]; since: string | null; acts: readonly { key: string; to: KeptAct | null }[] },
  ): Promise<boolean>;
}

// Rows are kept in bundles: one record for each would make the first fetch ten times as long.
const BUNDLE = 256;
const bundleOf = (id: number): number => Math.floor(id / BUNDLE);

interface Schema extends DBSchema {
  acts: { key: string; value: KeptAct };
  ats: { key: string; value: unknown };
  meta: { key: string; value: Meta };
  facts: { key: [number, string, number]; value: Row[] };
  taken: { key: number; value: Taken };
}

/** Opens what the browser keeps; in a browser that keeps nothing, a memory that lasts as long as the page. */
export async function openKeep(name = 'dockrow'): Promise<Keep> {
  try {
    const db = await openDB<Schema>(name, 1, {
      upgrade(made) {
        made.createObjectStore('acts', { keyPath: 'key' });
        made.createObjectStore('ats');
        made.createObjectStore('meta');
        made.createObjectStore('facts');
        made.createObjectStore('taken');
      },
    });
    return lastingKeep(db);
  } catch {
    return passingKeep();
  }
}

function lastingKeep(db: IDBPDatabase<Schema>): Keep {
  return {
    lasting: true,
    async load() {
      const tx = db.transaction(['meta', 'acts', 'ats']);
      const [meta, acts, jobs, ats] = await Promise.all([
        tx.objectStore('meta').get('meta'),
        tx.objectStore('acts').getAll(),
        tx.objectStore('ats').getAllKeys(),
        tx.objectStore('ats').getAll(),
      ]);
      return { meta: meta ?? NEW_META, acts: acts.sort((a, b) => a.seq - b.seq), ats: new Map(jobs.map((job, n) => [job, ats[n]])) };
    },
    async beginProgram(program) {
      const tx = db.transaction(['meta', 'ats'], 'readwrite');
      const meta = { ...((await tx.objectStore('meta').get('meta')) ?? NEW_META), program };
      await Promise.all([tx.objectStore('meta').put(meta, 'meta'), tx.objectStore('ats').clear(), tx.done]);
    },
    async done(acts, at) {
      const tx = db.transaction(['meta', 'acts', 'ats'], 'readwrite', { durability: 'strict' });
      const meta = (await tx.objectStore('meta').get('meta')) ?? NEW_META;
      const kept = acts.map((act, n): KeptAct => ({ ...act, seq: meta.seq + n + 1 }));
      await Promise.all([
        ...kept.map((act) => tx.objectStore('acts').add(act)),
        ...(kept.length > 0 ? [tx.objectStore('meta').put({ ...meta, seq: meta.seq + kept.length }, 'meta')] : []),
        tx.objectStore('ats').put(at.value, at.job),
        tx.done,
      ]);
      return kept;
    },
    async change(acts) {
      const tx = db.transaction('acts', 'readwrite');
      await Promise.all([...acts.map((change) => changeAct(tx.store, change)), tx.done]);
    },
    async meta(change) {
      const tx = db.transaction('meta', 'readwrite');
      const meta = { ...((await tx.store.get('meta')) ?? NEW_META), ...change };
      await Promise.all([tx.store.put(meta, 'meta'), tx.done]);
    },
    async facts(site) {
      const tx = db.transaction(['facts', 'taken']);
      const range = siteRange(site);
      const [taken, keys, bundles] = await Promise.all([
        tx.objectStore('taken').get(site),
        tx.objectStore('facts').getAllKeys(range),
        tx.objectStore('facts').getAll(range),
      ]);
      if (!taken) return null;
      return { taken, parts: keys.map((key, n) => ({ kind: key[1] as FactKind, rows: (bundles[n] ?? []) as unknown[][], gone: [] })) };
    },
    async takeFacts(site, { taken, parts, since, acts }) {
      const tx = db.transaction(['facts', 'taken', 'acts'], 'readwrite');
      const facts = tx.objectStore('facts');
      if (since !== null && (await tx.objectStore('taken').get(site))?.revision !== since) {
        await tx.done;
        return false;
      }
      if (since === null) await Promise.all([facts.delete(siteRange(site)), tx.objectStore('taken').delete(site)]);
      for (const { kind, rows, gone } of parts) {
        const touched = new Map<number, { put: Row[]; gone: number[] }>();
        const bundle = (id: number): { put: Row[]; gone: number[] } => {
          const found = touched.get(bundleOf(id)) ?? { put: [], gone: [] };
          touched.set(bundleOf(id), found);
          return found;
        };
        for (const row of rows) bundle(row[0] as number).put.push(row);
        for (const id of gone) bundle(id).gone.push(id);
        await Promise.all(
          [...touched].map(async ([n, change]) => {
            const key: [number, string, number] = [site, kind, n];
            const byId = new Map(((await facts.get(key)) ?? []).map((row) => [row[0] as number, row]));
            for (const row of change.put) byId.set(row[0] as number, row);
            for (const id of change.gone) byId.delete(id);
            await (byId.size > 0 ? facts.put([...byId.values()], key) : facts.delete(key));
          }),
        );
      }
      await Promise.all([
        tx.objectStore('taken').put(taken, site),
        ...acts.map((change) => changeAct(tx.objectStore('acts'), change)),
        tx.done,
      ]);
      return true;
    },
  };
}

type ActStore = {
  get(key: string): Promise<KeptAct | undefined>;
  put(act: KeptAct): Promise<unknown>;
  delete(key: string): Promise<void>;
};
// What another tab has taken away stays away: a late answer must not bring it back.
async function changeAct(acts: ActStore, { key, to }: { key: string; to: KeptAct | null }): Promise<void> {
  if (!to) await acts.delete(key);
  else if (await acts.get(key)) await acts.put(to);
}

const siteRange = (site: number): IDBKeyRange => IDBKeyRange.bound([site, '', 0], [site, '\uffff', Infinity]);

function passingKeep(): Keep {
  let meta = NEW_META;
  const acts = new Map<string, KeptAct>();
  const ats = new Map<string, unknown>();
  const change = (changes: readonly { key: string; to: KeptAct | null }[]): Promise<void> => {
    for (const { key, to } of changes)
      if (to && acts.has(key)) acts.set(key, to);
      else if (!to) acts.delete(key);
    return Promise.resolve();
  };
  return {
    lasting: false,
    load: () => Promise.resolve({ meta, acts: [...acts.values()], ats: new Map(ats) }),
    beginProgram: () => Promise.resolve(),
    done: (made, at) => {
      const kept = made.map((act, n): KeptAct => ({ ...act, seq: meta.seq + n + 1 }));
      meta = { ...meta, seq: meta.seq + kept.length };
      ats.set(at.job, at.value);
      for (const act of kept) acts.set(act.key, act);
      return Promise.resolve(kept);
    },
    change,
    meta: (to) => {
      meta = { ...meta, ...to };
      return Promise.resolve();
    },
    facts: () => Promise.resolve(null),
    takeFacts: (_site, { acts: changes }) => change(changes).then(() => true),
  };
}
