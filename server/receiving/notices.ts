import { createHash } from 'node:crypto';
import { judgeAdvice, type Advice } from '#core/receiving';
import { announce, askHelper, refuse, type DroppedFile, type Trx } from '#server/kernel';
import { insertNotice, isNoticeBegun, lockNotices, selectKnownForAdvice, selectNoticeOf } from './store-notice.ts';

export type TakingNotice = {
  readonly file: DroppedFile;
  /** Where whoever brings the file works; null where a supplier dropped it. */
  readonly site: number | null;
  readonly person: number | null;
};
/** The faults that are told; a file with more is wrong as a whole. */
const MOST_FAULTS = 20;

/** What a file says, read by a helper. Errors: `receiving.badAdvice`. */
export function readAdvice(file: DroppedFile): Promise<Advice> {
  return askHelper<Advice>(
    'advice',
    { name: file.name, bytes: new Uint8Array(file.bytes) },
    { what: `Reading ${file.name}`, most: 30_000 },
  );
}

export const contentsOf = (bytes: Buffer): string => createHash('sha256').update(bytes).digest('hex');

/** Takes in what a supplier announced (C1, C15): all of it, or nothing. The same file again is the same notice; another one of the
 *  same number
 *  is its correction, as long as nothing of it has come.
 *  Errors: `receiving.badAdvice` for a file that cannot be read; `receiving.adviceFaults` with all that `judgeAdvice` finds;
 *          `receiving.noticeBegun` for a correction that comes too late; orders of a site at which whoever brings it does not work.
 *  Locks:  notices, against each other. */
export async function takeNotice(trx: Trx, taking: TakingNotice): Promise<{ id: number; number: string; isNew: boolean }> {
  const { file } = taking;
  const advice = await readAdvice(file);
  const contents = contentsOf(file.bytes);
  await lockNotices(trx);
  const before = await selectNoticeOf(trx, {
    names: [...advice.supplier.ids, advice.supplier.name],
    reference: advice.reference.trim(),
  });
  if (before?.contents === contents && before.state !== 'withdrawn') return { id: before.id, number: before.number, isNew: false };
  if (before && before.state !== 'withdrawn' && (before.state === 'arrived' || (await isNoticeBegun(trx, before.id))))
    refuse({ code: 'receiving.noticeBegun', number: before.number, name: file.name });
  const { notice, faults } = judgeAdvice(advice, await selectKnownForAdvice(trx, advice, before?.id ?? null));
  if (!notice)
    return refuse({ code: 'receiving.adviceFaults', name: file.name, faults: faults.slice(0, MOST_FAULTS), more: faults.length });
  const site = notice.site ?? taking.site;
  if (site === null) return refuse({ code: 'receiving.adviceNoOrder', name: file.name });
  if (taking.site !== null && site !== taking.site) return refuse({ code: 'receiving.adviceElsewhere', name: file.name });
  const made = await insertNotice(trx, { ...notice, site, person: taking.person, fileName: file.name, contents }, before?.id ?? null);
  announce(trx, 'receiving', { site, notice: made.id });
  return { ...made, isNew: true };
}
