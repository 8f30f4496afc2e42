export { ACTS, rankActs, type Act, type Waiting } from './next-acts.ts';
