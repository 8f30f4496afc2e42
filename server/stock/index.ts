export { post, trimPromises, type Posting } from './post.ts';
export { lockPromises, selectUsableAndPromised } from './store.ts';
export { stockHandlers } from './routes.ts';
export { runAudit, type AuditFault } from './audit.ts';
export { loadBins } from './bin-rules.ts';
export { selectStock } from './past.ts';
export { holdStock } from './holds.ts';
