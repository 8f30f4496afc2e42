export { PutAwayPage } from './put-away.tsx';
export { RefillPage } from './refill.tsx';
export { Carries } from './rounds.tsx';
