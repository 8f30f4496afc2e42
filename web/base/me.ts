import { createContext, use } from 'react';
import { mayReadCosts } from '#core/people';
import type { Me } from '#contract/people';

const Here = createContext<{ readonly me: Me | null }>({ me: null });

/** Says to the pages below whose they are. */
export const WhoIsHere = Here.Provider;

/** Whose page this is. It stays theirs while the desk is closed over it. */
export const useMe = (): { readonly me: Me | null } => use(Here);

/** Whether whoever is signed in may read what goods cost: a column of it is left out otherwise, never shown as nothing. */
export function useMayReadCosts(): boolean {
  const { me } = useMe();
  return me ? mayReadCosts(me.role) : false;
}
