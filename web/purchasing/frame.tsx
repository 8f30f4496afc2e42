import type { ReactNode } from 'react';
import { SubRow, useMayReadCosts } from '#web/base';

const EXPECTED = ['/expected', 'To come'] as const;
const LINKS = [
  EXPECTED,
  ['/purchasing', 'Purchase orders'],
  ['/purchasing/reorder', 'What to buy'],
  ['/purchasing/suppliers', 'Suppliers'],
  ['/purchasing/import', 'Import'],
] as const;

/** The screens about what is ordered of suppliers. Who may not read costs sees what is to come. */
export function PurchasingFrame({ children, act }: { children: ReactNode; act?: ReactNode }) {
  const mayBuy = useMayReadCosts();
  return (
    <>
      <SubRow title="Expected" links={mayBuy ? LINKS : [EXPECTED]}>
        {act}
      </SubRow>
      {children}
    </>
  );
}
