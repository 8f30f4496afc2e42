import type { ReactNode } from 'react';
import { SubRow } from '#web/base';

const LINKS = [
  ['/put-away', 'Arrivals'],
  ['/refill', 'Pick faces'],
  ['/carries', 'Rounds'],
] as const;

/** The screens of what is carried to its bin: from arrivals, from reserve, and the rounds that do it. */
export function CarryFrame({ children, title, act }: { children: ReactNode; title: string; act?: ReactNode }) {
  return (
    <>
      <SubRow title={title} links={LINKS}>
        {act}
      </SubRow>
      {children}
    </>
  );
}

export const CARRY_NAME = { putAway: 'Put-away round', refill: 'Refill' } as const;
