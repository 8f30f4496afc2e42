import type { ReactNode } from 'react';
import { SubRow } from '#web/base';

const LINKS = [
  ['/items', 'Items'],
  ['/items/price-lists', 'Price lists'],
  ['/items/shelf-labels', 'Wrong labels'],
  ['/stock', 'Stock and value'],
  ['/lots', 'Lots'],
  ['/holds', 'Holds'],
  ['/items/import', 'Import'],
  ['/items/own-fields', 'Own fields'],
] as const;

/** The screens about the goods. */
export function ItemsFrame({ children, act }: { children: ReactNode; act?: ReactNode }) {
  return (
    <>
      <SubRow title="Items" links={LINKS}>
        {act}
      </SubRow>
      {children}
    </>
  );
}
