export { putAwayKey, PutAwayRows, Unplaced } from './put-away.tsx';
