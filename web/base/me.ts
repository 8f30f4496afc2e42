import { mayReadCosts } from '#core/people';
import { useRead } from './queries.ts';

/** Whether whoever is signed in may read what goods cost: a column of it is left out otherwise, never shown as nothing. */
export function useMayReadCosts(): boolean {
  const { data } = useRead('people.me', {});
  return data?.me ? mayReadCosts(data.me.role) : false;
}
