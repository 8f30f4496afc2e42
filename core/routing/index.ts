export { metresOf, MOST_EXACT, shortestWay, type Walk, type Way } from './shortest-way.ts';
export { wayOfCarry, wayOfRound, type CarryWay, type RoundBin, type RoundWay } from './round-way.ts';
export {
  firstCome,
  joinOrders,
  leastWalk,
  singly,
  type JoinCart,
  type Joined,
  type JoinedRound,
  type JoinOrder,
  type JoinProblem,
} from './join-orders.ts';
export { proposeRounds, type Proposal, type ToPropose } from './propose.ts';
