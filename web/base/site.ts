import { WORKING_AT } from '#contract/people';

// Where this tab works. It belongs to the tab: another tab of the same person may work at another site.
const KEPT = 'dockrow.site';
let zone = 'Europe/London';
let calendar: Intl.DateTimeFormat | null = null;
let currency = 'EUR';
let memory: string | null = null;

const keep = (site: string): void => {
  memory = site;
  try {
    sessionStorage.setItem(KEPT, site);
  } catch {
    // Private browsing without storage: it lasts as long as the page.
  }
};

/** The site at which this tab works, or null before anybody said so. */
export function workingAt(): string | null {
  if (memory !== null) return memory;
  try {
    memory = sessionStorage.getItem(KEPT);
  } catch {
    memory = null;
  }
  return memory;
}

/** Notes at which site this tab works, by which clock it goes and in which currency it reckons. */
export function settleAt(site: { id: number; timeZone: string }, money: string | undefined): void {
  if (zone !== site.timeZone) calendar = null;
  zone = site.timeZone;
  currency = money ?? currency;
  if (workingAt() !== String(site.id)) keep(String(site.id));
}

const ASKED = 'workingAt';

/** Lets this tab work at another site: everything that it shows is read anew.
 *  Shape:  the site is in the address, and holds when the page is there: whoever is asked about unsaved work and stays, stays at their
 *          site. */
export function switchSite(site: number, path: string): void {
  window.location.assign(`${path}?${ASKED}=${site}`);
}

/** Takes over the site that the address asks for, before anything is read. */
export function takeAskedSite(): void {
  const address = new URL(window.location.href);
  const asked = address.searchParams.get(ASKED);
  if (asked === null) return;
  if (/^\d{1,9}$/.test(asked)) keep(asked);
  address.searchParams.delete(ASKED);
  window.history.replaceState(window.history.state, '', address);
}

/** Forgets where this tab worked: the next person begins at a site of their own. */
export function forgetSite(): void {
  memory = null;
  try {
    sessionStorage.removeItem(KEPT);
  } catch {
    // Nothing was kept.
  }
}

/** The headers with which every request says where the tab works. */
export function siteHeaders(): Record<string, string> {
  const site = workingAt();
  return site === null ? {} : { [WORKING_AT]: site };
}

/** An address that cannot carry headers (a download, a picture, the stream of changes), with the site in its query. */
export function atSite(path: string): string {
  const site = workingAt();
  return site === null ? path : `${path}${path.includes('?') ? '&' : '?'}workingAt=${site}`;
}

/** Today at the site, as `YYYY-MM-DD`, so many days on. */
export function siteToday(daysOn = 0): string {
  // Made once for a zone: every row of a list asks, and making one takes longer than all the asking.
  if (calendar === null) calendar = new Intl.DateTimeFormat('sv', { timeZone: zone });
  const [year = 0, month = 1, day = 1] = calendar.format().split('-').map(Number);
  return new Date(Date.UTC(year, month - 1, day + daysOn)).toISOString().slice(0, 10);
}

/** The time zone of the site. */
export const siteZone = (): string => zone;

/** The currency of all prices and costs, as ISO 4217 has it. */
export const houseCurrency = (): string => currency;
