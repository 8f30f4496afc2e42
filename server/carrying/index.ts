export { carryingHandlers } from './routes.ts';
export { carrySheet } from './sheet.ts';
export { putFromCarry, reportCarryTrouble, takeOnCart, undoCarried } from './carry.ts';
export { findCarry, selectTasks } from './store.ts';
