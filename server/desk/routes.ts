import { NEWEST_MIGRATION, query, type RoomHandlers } from '#server/kernel';
import { deskOf } from './figures.ts';
import { meaningOf } from './scan.ts';

export const deskHandlers: RoomHandlers<'desk'> = {
  'desk.row': (db, { me }) => deskOf(db).row.read(me.site.id),
  'desk.home': (db, { me }) => deskOf(db).home.read(me.site.id),
  'desk.scan': (db, { me, query: asked }) => meaningOf(db, me.site.id, asked.code),
  'desk.health': async (db) => {
    const [row] = await query<{ version: string }>(db, `SELECT split_part(version(), ' ', 2) AS version`);
    return { version: '0.1.0', migration: NEWEST_MIGRATION, database: row?.version ?? '' };
  },
};
