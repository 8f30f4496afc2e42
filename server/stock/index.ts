export { post, trimPromises, type Posting } from './post.ts';
export { lockStock, lockWholeSite, selectUsableAndPromised } from './store.ts';
export { stockHandlers } from './routes.ts';
export { runAudit, type AuditFault } from './audit.ts';
export { loadBins } from './bin-rules.ts';
export { selectStock } from './past.ts';
export { holdStock } from './holds.ts';
export { selectStandingHolds } from './store-holds.ts';
export { undoDocument } from './undo.ts';
