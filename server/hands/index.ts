export { handsHandlers } from './routes.ts';
export { forgetOldChanges, readFacts } from './facts.ts';
export { clashesOut } from './clash-words.ts';
export { selectClashes } from './store.ts';
