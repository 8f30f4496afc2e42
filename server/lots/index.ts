export { lotsHandlers } from './routes.ts';
