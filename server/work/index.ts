export { workHandlers } from './routes.ts';
export { fileRoutes } from './files.ts';
