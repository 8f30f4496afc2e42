export { receivingHandlers } from './routes.ts';
