export { reckonReady, type Readiness, type ReadyLine } from './ready.ts';
export { ordersSentence, type OrdersError } from './errors.ts';
export { reckonStep, type OrderStep, type OrderWay } from './step.ts';
