export {
  compareDelivery,
  compareReturn,
  type Expected,
  type Entry,
  type Comparison,
  type ComparisonLine,
  type LineStanding,
} from './compare.ts';
export { decideBegin, type BeginCommand } from './begin.ts';
export { decideWhereTo, type BinToFill } from './where-to.ts';
export { decideEntry, MOST_AT_ONCE, type EntryCommand, type EntryFacts, type AcceptedEntry } from './entry.ts';
export { receivingSentence, type ReceivingError } from './errors.ts';
export { decideBringBack, type ReceivedStock } from './reverse.ts';
export { decideChangeOfFound, decideFinding, decideSetApart, failedOf, type FailedPart, type FailMove, type Finding } from './inspect.ts';
export { invoiceLine, judgeInvoice, queryWords, type InvoicedItem, type InvoiceQuery, type InvoiceVerdict } from './invoice.ts';
export { judgeReceiptSheet, RECEIPT_COLUMNS, type KnownForReceipt, type ReceivedItem, type SheetEntry } from './receipt-sheet.ts';
export { linesAgreedShort, settleLines, type OpenPurchaseLine, type SettledLine } from './settle.ts';
export { clashingSerials, LONGEST_LABEL, makeSerialRange, MOST_SERIALS, readSerialList, serialsOfCell } from './serial-list.ts';
export { receivingSaid, type ReceivingSaid } from './said.ts';
export {
  deliveryName,
  deliveryTitle,
  entriesTogether,
  entriesToInspect,
  foldDelivery,
  fromWhom,
  isOfPaper,
  lineOf,
  linesOf,
  linesOfOrders,
  ownEntries,
  type DeliveryJob,
  type DeliveryRef,
  type ExpectedOrder,
  type HandEntry,
  type ReceiveDoes,
  type SentShipment,
} from './delivery-job.ts';
export { stepReceive } from './hands.ts';
export { RECEIVE_BEGINS, type ReceiveAsks, type ReceiveAt, type ReceiveChoice } from './receive-at.ts';
export { entryKey, entryNumber } from './notice.ts';
export {
  judgeAdvice,
  type Advice,
  type AdvisedItem,
  type AdviceLine,
  type JudgedNotice,
  type KnownForAdvice,
  type NoticeLine,
} from './advice.ts';
export { isAgreed, NO_TOLERANCE, type Tolerance } from './tolerance.ts';
