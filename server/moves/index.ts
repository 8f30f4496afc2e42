export { movesHandlers } from './routes.ts';
