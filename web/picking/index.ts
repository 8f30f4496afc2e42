export { Rounds } from './rounds.tsx';
export { ProposeRounds } from './propose.tsx';
