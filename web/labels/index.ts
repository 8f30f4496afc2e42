export { Printer } from './printer.tsx';
export { sayLabelsSent } from './sent.ts';
