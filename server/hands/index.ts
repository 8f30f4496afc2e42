export { handsHandlers } from './routes.ts';
export { forgetOldChanges } from './facts.ts';
export { clashesOut } from './clash-words.ts';
export { selectClashes } from './store.ts';
