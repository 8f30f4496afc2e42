import type { RequestHandler } from 'express';
import type { Me, Site } from '#contract/people';
import { WORKING_AT } from '#contract/people';
import { query, refuse, type Db, type DomainError } from '#server/kernel';
import { SITES } from './store.ts';
import { askerOf, closeOver, type Asker } from './sessions.ts';

declare module 'express-serve-static-core' {
  // Express's own way to say what a request carries.
  interface Request {
    me?: Me;
    /** Why nobody is signed in, where somebody was. */
    signedOut?: DomainError;
  }
}

const PERSON = `SELECT p.id, p.name, p.role, p.site_id AS home,
    ${SITES}
  FROM person p WHERE p.active`;
type Person = NonNullable<Asker['person']>;

/** A person as they are now, at the site that was asked for, else at the one where they worked last, else at their first.
 *  Errors: `people.notAtSite` for a site where they do not work; `people.noSite` where they work nowhere. */
export async function readMe(db: Pick<Db, 'raw'>, person: number, wanted: number | null): Promise<Me | undefined> {
  const [row] = await query<Person>(db, `${PERSON} AND p.id = ?`, [person]);
  return row && (await atSite(db, row, wanted));
}

async function atSite(db: Pick<Db, 'raw'>, { home, sites, ...named }: Person, wanted: number | null): Promise<Me> {
  const site: Site | undefined = sites.find((s) => s.id === (wanted ?? home)) ?? (wanted === null ? sites[0] : undefined);
  if (site) return { ...named, site, sites };
  if (sites.length === 0) return refuse({ code: 'people.noSite' });
  const [other] = await query<{ name: string }>(db, `SELECT name FROM site WHERE id = ?`, [wanted]);
  return other ? refuse({ code: 'people.notAtSite', site: other.name }) : refuse({ code: 'places.unknownSite', id: wanted ?? 0 });
}

/** Says at every request who is asking and at which site they work: a right that was taken away is gone at once, and two tabs of one person
 *  may work at two sites. */
export function withMe(db: Db): RequestHandler {
  return async (req, _res, next) => {
    const asker = askerOf(req);
    // Leaving is always possible, also for somebody who works nowhere any more.
    if (!asker || req.path === '/sign-out') return next();
    const said = req.get(WORKING_AT) ?? req.query['workingAt'];
    const wanted = said === undefined ? null : Number(said);
    if (wanted !== null && !(Number.isSafeInteger(wanted) && wanted > 0 && wanted < 2 ** 31))
      return refuse({ code: 'request.fields', fields: [{ field: WORKING_AT, problem: 'must be the number of a site.' }] });
    if (asker.over) {
      if (!asker.over.isClosed) await closeOver(db, req.sessionID, asker.over);
      req.signedOut =
        asker.over.why === 'idle'
          ? { code: 'people.away', minutes: asker.over.limit }
          : { code: 'people.shiftOver', hours: asker.over.limit };
    } else if (asker.person) req.me = await atSite(db, asker.person, wanted);
    next();
  };
}
