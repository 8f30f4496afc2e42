export { peopleHandlers } from './routes.ts';
export { offerFirstLead } from './first-lead.ts';
export { DEMO_PEOPLE } from './demo-people.ts';
export { withMe } from './me.ts';
export { askerOf, selectUsable, withSession } from './sessions.ts';
export { deleteOldSessions, findSessionSecret, updateHandheld, updateSeen, worksAt } from './store.ts';
export { selectHouse, upsertSetting } from './store.ts';
