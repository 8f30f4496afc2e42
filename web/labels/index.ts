export { Printer } from './printer.tsx';
