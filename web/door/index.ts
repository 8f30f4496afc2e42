export { Door } from './door.tsx';
