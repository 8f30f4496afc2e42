export { blockingLine, reckonReady, type Readiness, type ReadyLine } from './ready.ts';
export { ordersSentence, type OrdersError } from './errors.ts';
export { reckonStep, type OrderStep, type OrderWay } from './step.ts';
export { explainShort, type BesideFree } from './short.ts';
export {
  judgeOrderSheet,
  MOST_LINES,
  ORDER_COLUMNS,
  type KnownForOrders,
  type OrderedItem,
  type SentLine,
  type SentOrder,
} from './order-sheet.ts';
export { decideLineChange, sayLineChange, type LineAtWork, type LineChange } from './change-line.ts';
export { decideNames, sayAsking, type NamedGoods, type NamedLine } from './named.ts';
export { codesOf, judgeOrderPaper, PAPER_WAITS, type OrderPaper, type PaperLine } from './paper.ts';
