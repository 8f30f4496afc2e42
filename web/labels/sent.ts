import { toast } from 'sonner';

const SAID_AT_ONCE = 3;
const READ_MS = 15_000;

/** Says what was sent to the printer, and what a code on it could not hold (D1). `labels` counts stickers; `kind` is e.g. `shelf`, and
 *  `order` how they come out. */
export function sayLabelsSent(
  reply: { labels: number; unsaid: readonly string[]; printers: readonly string[] },
  kind = '',
  order = '',
): void {
  const where = reply.printers.length === 0 ? 'wait for a printer' : `sent to ${reply.printers.join(' and ')}`;
  const said = `${reply.labels} ${kind}${kind && ' '}${reply.labels === 1 ? 'label' : 'labels'} ${where}${order && `, ${order}`}.`;
  const unsaid = unsaidWords(reply.unsaid);
  if (unsaid === '') toast.success(said);
  else toast.warning(said, { description: unsaid, duration: READ_MS });
}

/** What codes could not hold, each reason once, as one text; empty where they hold everything. */
export function unsaidWords(unsaid: readonly string[]): string {
  const reasons = [...new Set(unsaid)];
  const more = reasons.length - SAID_AT_ONCE;
  return [...reasons.slice(0, SAID_AT_ONCE), ...(more > 0 ? [`And ${more} more like these.`] : [])].join(' ');
}
