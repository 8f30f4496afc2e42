export { peopleHandlers } from './routes.ts';
export { offerFirstLead } from './first-lead.ts';
export { DEMO_PEOPLE } from './demo-people.ts';
export { selectSite } from './store.ts';
