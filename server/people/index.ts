export { peopleHandlers } from './routes.ts';
export { offerFirstLead } from './first-lead.ts';
export { DEMO_PEOPLE } from './demo-people.ts';
export { withMe } from './me.ts';
export { askerOf, noteHandheld, noteSeen, selectUsable, withSession } from './sessions.ts';
export { worksAt } from './store.ts';
export { selectHouse, updateCurrency } from './store.ts';
