export { Handheld } from './handheld.tsx';
