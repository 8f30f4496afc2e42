export { deskHandlers } from './routes.ts';
