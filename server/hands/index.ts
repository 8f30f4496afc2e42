export { handsHandlers } from './routes.ts';
export { forgetOldChanges } from './facts.ts';
export { countClashes } from './store.ts';
