export { deskHandlers } from './routes.ts';
export { deskOf, Figures, touchDesk, type Desk } from './figures.ts';
