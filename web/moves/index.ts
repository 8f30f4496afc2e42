export { PutAwayList, Unplaced } from './put-away.tsx';
