import { NEWEST_MIGRATION, query, type RoomHandlers } from '#server/kernel';
import { readChoices } from './choices.ts';
import { readDay } from './day.ts';
import { deskOf } from './figures.ts';
import { meaningOf } from './scan.ts';

export const deskHandlers: RoomHandlers<'desk'> = {
  'desk.row': (db, { me }) => deskOf(db).row.read(me.site.id),
  'desk.home': (db, { me }) => deskOf(db).home.read(me.site.id),
  'desk.day': async (db, { me }) => {
    const [here] = await query<{ today: string }>(db, `SELECT today_at(?)::text AS today`, [me.site.id]);
    return readDay(db, me.site.id, here?.today ?? '');
  },
  'desk.scan': (db, { me, query: asked }) => meaningOf(db, me.site.id, asked.code),
  'desk.choices': (db, { me, query: asked }) => readChoices(db, me.site.id, asked),
  'desk.health': async (db) => {
    const [row] = await query<{ version: string }>(db, `SELECT split_part(version(), ' ', 2) AS version`);
    return { version: '0.1.0', migration: NEWEST_MIGRATION, database: row?.version ?? '' };
  },
};
