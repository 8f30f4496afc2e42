import { fail, ok, type Result } from '#core/base';
import type { PrintingError } from './errors.ts';
import { groupsOf, GROUPS, JOB_STATES, numberOf, readIpp, STATUS, valuesOf, type IppGroup, type IppMessage } from './ipp.ts';

/** How a run stands at the printer. `stopped`: by somebody; `broken`: by the printer itself. `out`: how many of its labels came out, null
 *  where the printer does not say. `stands`: why it does not go on, in words; null while it does. */
export type RunState = {
  readonly job: number;
  readonly name: string;
  readonly state: 'waits' | 'prints' | 'done' | 'stopped' | 'broken';
  readonly out: number | null;
  readonly stands: string | null;
};

// What printers say of themselves, in words for who stands before them. Source: RFC 8011, section 5.4.12; PWG 5100.9.
const REASONS: readonly (readonly [RegExp, string])[] = [
  [/^media-jam/, 'Labels are jammed in it.'],
  [/^(media-empty|media-needed)/, 'The roll is at its end.'],
  [/^(cover-open|door-open|interlock-open)/, 'It is open.'],
  [/^(marker-supply-empty|toner-empty)/, 'The ribbon is at its end.'],
  [/^paused|^moving-to-paused/, 'Somebody paused it at the printer.'],
  [/^(fuser-over-temp|.*over-temp)/, 'Its head is too hot and has to cool.'],
  [/^(shutdown|stopping|stopped-partly)/, 'It is switched off.'],
  [/^job-canceled-at-device|^job-canceled-by-operator/, 'Somebody stopped it at the printer.'],
  [/^(document-format-error|document-unprintable-error|unsupported-document-format)/, 'It cannot read what it was sent.'],
];

/** The first thing that keeps a printer from printing, in words; null where nothing does. What only warns is left out. */
export function whyItStands(reasons: readonly unknown[]): string | null {
  const said = reasons.filter((r): r is string => typeof r === 'string' && r !== 'none' && !/-(report|warning)$/.test(r));
  for (const [pattern, words] of REASONS) if (said.some((r) => pattern.test(r))) return words;
  const other = said.find((r) => /-error$/.test(r));
  return other === undefined ? null : `It says “${other.slice(0, 60)}”.`;
}

/** Reads an answer of a printer.
 *  Errors: `printing.nonsense`; `printing.refused` with what the printer said for every status that is not a success. */
export function readAnswer(bytes: Uint8Array): Result<IppMessage, PrintingError> {
  const read = readIpp(bytes);
  if (!read.ok) return read;
  const { code, groups } = read.value;
  // Source: RFC 8011, appendix B: statuses below 0x0100 are successes.
  if (code < 0x0100) return read;
  if (code === STATUS.notFound) return fail({ code: 'printing.unknownRun' });
  const [said] = valuesOf(
    groups.find((g) => g.group === GROUPS.operation),
    'status-message',
  );
  return fail({
    code: 'printing.refused',
    says: typeof said === 'string' ? said.slice(0, 120) : `status ${code.toString(16).padStart(4, '0')}`,
  });
}

/** The runs that an answer tells of. */
export function runsOf(message: IppMessage): Result<RunState[], PrintingError> {
  const runs: RunState[] = [];
  for (const group of groupsOf(message, GROUPS.job)) {
    const run = runOf(group);
    if (!run) return fail({ code: 'printing.nonsense' });
    runs.push(run);
  }
  return ok(runs);
}

const STATES: Readonly<Record<number, RunState['state']>> = {
  [JOB_STATES.pending]: 'waits',
  [JOB_STATES.held]: 'waits',
  [JOB_STATES.processing]: 'prints',
  [JOB_STATES.stopped]: 'prints',
  [JOB_STATES.canceled]: 'stopped',
  [JOB_STATES.aborted]: 'broken',
  [JOB_STATES.completed]: 'done',
};
function runOf(group: IppGroup): RunState | null {
  const [job, state] = [numberOf(group, 'job-id'), STATES[numberOf(group, 'job-state') ?? 0]];
  if (job === null || state === undefined) return null;
  const out = numberOf(group, 'job-impressions-completed');
  return {
    job,
    name: String(valuesOf(group, 'job-name')[0] ?? ''),
    state,
    out: out !== null && out >= 0 ? out : null,
    stands: whyItStands(valuesOf(group, 'job-state-reasons')),
  };
}
