export { countingHandlers } from './routes.ts';
export { makeCount, postCount } from './count.ts';
