export { Rounds } from './rounds.tsx';
