export { openDatabase, migrate, ensureDatabase, NewerDatabase, NEWEST_MIGRATION, type Db, type Trx } from './database.ts';
export { refuse, Refusal, valueOf, sentenceOf, statusOf, type DomainError } from './refusal.ts';
export { announce, Outbox, type Change, type Topic } from './outbox.ts';
export { runCommand, runInternal } from './command.ts';
export { makeDocument, type DocumentKind } from './document.ts';
export type { House, Asked, Reader, Commander, Plain, RoomHandlers, HandlerOf } from './context.ts';
export { query } from './query.ts';
export { asQty, dbQty } from './columns.ts';
export { keysetOf, keysetText } from './keyset.ts';
