export {
  TOGETHER,
  addressOf,
  openDatabase,
  migrate,
  ensureDatabase,
  grantApplication,
  openWhenThere,
  NewerDatabase,
  NEWEST_MIGRATION,
  type Db,
  type Trx,
} from './database.ts';
export {
  refuse,
  Refusal,
  faultOfDatabase,
  isPassing,
  refusalOfConstraint,
  valueOf,
  sentenceOf,
  statusOf,
  type DomainError,
} from './refusal.ts';
export { announce, Outbox, takeChanges, type Change, type ChangeFacts, type Topic } from './outbox.ts';
export { KEEP_PLANS, retrying, runCommand, runInternal, underClaim, writeChanges } from './command.ts';
export { makeDocument, type DocumentKind } from './document.ts';
export type { House, Asked, Reader, Commander, Plain, RoomHandlers, HandlerOf } from './context.ts';
export { NobodyWaits, poolOf, query, queryOne, readingOf, together } from './query.ts';
export { asQty, dbQty } from './columns.ts';
export { keysetOf, keysetText } from './keyset.ts';
export { selectSorted, type SortBy, type SortKey } from './sorted.ts';
export { deleteWhatIsPast } from './housekeeping.ts';
export { approveJob, cancelJob, requeueJob, startJob, runJobs, type JobContext, type JobWork, type RowVerdict } from './jobs.ts';
export { MOST_COLUMNS, MOST_ROWS, parseSheet, writeCsv, writeXlsx, type Sheet, type SheetColumn } from './sheet.ts';
export { SheetFault } from './sheet-fault.ts';
export { askHelper, type HelperWork } from './helper.ts';
export { fileParts, keepFile, loadFile, type KeptFile } from './files.ts';
export { byTitles, importSheet, startImport, type SheetRows } from './import-sheet.ts';
export { Paper, type PaperColumn } from './paper.ts';
export { lockRows, noteLocks, workAlone, LOCK_CLASS, LOCK_ORDER, type LockRank } from './locks.ts';
export { takeFiles, watchFolder, type DroppedFile, type TakesFiles } from './drop-folder.ts';
export { attributeAt, listAt, nodeAt, readUbl, textAt, ublKind, type UblNode } from './ubl.ts';
export { QUICK_LEVEL, SharedAnswer } from './shared-answer.ts';
