export { lotsHandlers } from './routes.ts';
export { insertTie } from './store.ts';
