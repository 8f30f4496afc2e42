import type { ReactNode } from 'react';
import { useLocation } from 'react-router';
import { SubRow } from '#web/base';

/** The screens of what is carried to its bin: from arrivals, from reserve, and the rounds that do it. */
export function CarryFrame({ children, title, act }: { children: ReactNode; title: string; act?: ReactNode }) {
  const { pathname } = useLocation();
  const links = [
    ['/put-away', 'Arrivals'],
    ['/refill', 'Pick faces'],
    // The round that is open is one of the rounds.
    [pathname.startsWith('/carries') ? pathname : '/carries', 'Rounds'],
  ] as const;
  return (
    <>
      <SubRow title={title} links={links}>
        {act}
      </SubRow>
      {children}
    </>
  );
}

export const CARRY_NAME = { putAway: 'Put-away round', refill: 'Refill' } as const;
