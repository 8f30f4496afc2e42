export { happenedAt, jobOf, type Does, type DoesKind } from './acts.ts';
