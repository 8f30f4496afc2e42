/** What a lead may do next, each for all that waits for it. */
export const ACTS = ['pack', 'pick', 'settle', 'quarantine', 'post', 'putAway', 'promise', 'label'] as const;
export type Act = (typeof ACTS)[number];

/** What waits for one act: how many, of them how many are late, and since when the oldest waits (null where nothing says). */
export type Waiting = { readonly count: number; readonly late: number; readonly since: string | null };

// What waiting costs, the dearest first. An order that is late is late for somebody, and the nearer it is to the door the sooner it can be
// gone; what is told and not settled, or expired and not set apart, makes figures untrue; what stands at the dock can be sold by nobody.
const COSTS: readonly { readonly act: Act; readonly onlyLate: boolean }[] = [
  { act: 'pack', onlyLate: true },
  { act: 'pick', onlyLate: true },
  { act: 'promise', onlyLate: true },
  { act: 'settle', onlyLate: false },
  { act: 'quarantine', onlyLate: false },
  { act: 'post', onlyLate: false },
  { act: 'putAway', onlyLate: false },
  { act: 'pack', onlyLate: false },
  { act: 'pick', onlyLate: false },
  { act: 'promise', onlyLate: false },
  { act: 'label', onlyLate: false },
];

/** Ranks what can be done now by what waiting costs (L1).
 *  Shape:  each act for which anything waits, once; the first is the one to do. */
export function rankActs(waiting: Readonly<Record<Act, Waiting>>): Act[] {
  const due = COSTS.filter(({ act, onlyLate }) => (onlyLate ? waiting[act].late : waiting[act].count) > 0);
  return [...new Set(due.map(({ act }) => act))];
}
