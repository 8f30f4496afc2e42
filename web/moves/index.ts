export { PutAwayList } from './put-away.tsx';
