import { NEWEST_MIGRATION, query, type RoomHandlers } from '#server/kernel';
import { readRow } from './row.ts';
import { readHome } from './home.ts';
import { meaningOf } from './scan.ts';

export const deskHandlers: RoomHandlers<'desk'> = {
  'desk.row': async (db, { me }) => ({ stations: await readRow(db, me.site.id) }),
  'desk.home': (db, { me }) => readHome(db, me.site.id),
  'desk.scan': (db, { me, query: asked }) => meaningOf(db, me.site.id, asked.code),
  'desk.health': async (db) => {
    const [row] = await query<{ version: string }>(db, `SELECT split_part(version(), ' ', 2) AS version`);
    return { version: '0.1.0', migration: NEWEST_MIGRATION, database: row?.version ?? '' };
  },
};
