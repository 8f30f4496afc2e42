export { suggestPutAway, type PutAwayCandidate, type PutAwaySuggestion, type PutAwayWhy } from './put-away.ts';
export { movesSentence, type MovesError } from './errors.ts';
