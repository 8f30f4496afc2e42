import { fail, ok, type Result } from '#core/base';
import {
  attribute,
  GROUPS,
  numberOf,
  OPERATIONS,
  printerUrl,
  RASTER_TYPE,
  readAnswer,
  runsOf,
  whyItStands,
  writeIpp,
  valuesOf,
  type IppAttribute,
  type IppMessage,
  type PrintingError,
  type RunState,
} from '#core/printing';

const TYPE = 'application/ipp';
const PATIENCE_MS = 10_000;
const LONGEST_ANSWER = 4_000_000;
const NOBODY = new Uint8Array(0);
const RUN_FACTS = ['job-id', 'job-name', 'job-state', 'job-state-reasons', 'job-impressions-completed'];
let asked = 0;

async function ask(
  address: string,
  code: number,
  wants: readonly IppAttribute[],
  data: Uint8Array = NOBODY,
): Promise<Result<IppMessage, PrintingError>> {
  const url = printerUrl(address);
  if (url === null) return fail({ code: 'printing.away' });
  asked = (asked + 1) % 0x7fffffff;
  const operation = [
    attribute('charset', 'attributes-charset', 'utf-8'),
    attribute('language', 'attributes-natural-language', 'en'),
    attribute('uri', 'printer-uri', address),
    attribute('name', 'requesting-user-name', 'Dock Row'),
    ...wants,
  ];
  const body = writeIpp({ code, id: asked, groups: [{ group: GROUPS.operation, attributes: operation }], data });
  const answer = await answerOf(url, body);
  return answer.ok ? readAnswer(answer.value) : answer;
}

// Whoever stands behind an address that somebody keyed: it gets no other address to follow, little time and little room.
async function answerOf(url: string, body: Uint8Array): Promise<Result<Uint8Array, PrintingError>> {
  try {
    const answer = await fetch(url, {
      ...{ method: 'POST', redirect: 'error', headers: { 'Content-Type': TYPE }, body: Buffer.from(body) },
      signal: AbortSignal.timeout(PATIENCE_MS),
    });
    const isIts = answer.headers.get('content-type')?.startsWith(TYPE) === true;
    const parts: Uint8Array[] = [];
    let length = 0;
    for await (const part of answer.body ?? []) {
      parts.push(part as Uint8Array);
      length += (part as Uint8Array).length;
      if (length > LONGEST_ANSWER) return fail({ code: 'printing.nonsense' });
    }
    if (answer.status >= 500) return fail({ code: 'printing.away' });
    return answer.ok && isIts ? ok(Buffer.concat(parts)) : fail({ code: 'printing.nonsense' });
  } catch {
    return fail({ code: 'printing.away' });
  }
}

async function one(answer: Promise<Result<IppMessage, PrintingError>>): Promise<Result<RunState, PrintingError>> {
  const message = await answer;
  if (!message.ok) return message;
  const runs = runsOf(message.value);
  if (!runs.ok) return runs;
  const [run] = runs.value;
  return run ? ok(run) : fail({ code: 'printing.nonsense' });
}

/** Sends a run to a printer: a document of one page for each label.
 *  Errors: `printing.away` and `printing.nonsense` leave open whether it took it; all else means that it did not. */
export const sendRun = (address: string, token: string, document: Uint8Array): Promise<Result<RunState, PrintingError>> =>
  one(
    ask(address, OPERATIONS.printJob, [attribute('name', 'job-name', token), attribute('mime', 'document-format', RASTER_TYPE)], document),
  );

/** How a run stands that the printer gave a number. */
export const askRun = (address: string, job: number): Promise<Result<RunState, PrintingError>> =>
  one(
    ask(address, OPERATIONS.jobAttributes, [
      attribute('integer', 'job-id', job),
      attribute('keyword', 'requested-attributes', ...RUN_FACTS),
    ]),
  );

/** Looks for a run by the token under which it was sent; null where the printer knows none. */
export async function findRun(address: string, token: string): Promise<Result<RunState | null, PrintingError>> {
  for (const which of ['not-completed', 'completed']) {
    const answer = await ask(address, OPERATIONS.jobs, [
      attribute('keyword', 'which-jobs', which),
      attribute('keyword', 'requested-attributes', ...RUN_FACTS),
    ]);
    if (!answer.ok) return answer;
    const runs = runsOf(answer.value);
    if (!runs.ok) return runs;
    const found = runs.value.find((run) => run.name === token);
    if (found) return ok(found);
  }
  return ok(null);
}

/** Stops a run at the printer; what came out of it is asked afterwards. */
export async function cancelRun(address: string, job: number): Promise<void> {
  await ask(address, OPERATIONS.cancelJob, [attribute('integer', 'job-id', job)]);
}

/** How a printer is: since how many seconds it is switched on (null where it does not say), its resolution, and what keeps it. */
export async function askPrinter(
  address: string,
): Promise<Result<{ upSeconds: number | null; dpi: number | null; stands: string | null }, PrintingError>> {
  const answer = await ask(address, OPERATIONS.printerAttributes, [
    attribute('keyword', 'requested-attributes', 'printer-state', 'printer-state-reasons', 'printer-up-time', 'printer-resolution-default'),
  ]);
  if (!answer.ok) return answer;
  const printer = answer.value.groups.find((g) => g.group === GROUPS.printer);
  if (numberOf(printer, 'printer-state') === null) return fail({ code: 'printing.nonsense' });
  return ok({
    upSeconds: numberOf(printer, 'printer-up-time'),
    dpi: numberOf(printer, 'printer-resolution-default'),
    stands: whyItStands(valuesOf(printer, 'printer-state-reasons')),
  });
}
