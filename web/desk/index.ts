export { Desk } from './desk.tsx';
