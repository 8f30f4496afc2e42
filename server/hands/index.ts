export { handsHandlers } from './routes.ts';
export { readFacts } from './facts.ts';
export { clashesOut } from './clash-words.ts';
export { forgetOldChanges, selectClashes } from './store.ts';
