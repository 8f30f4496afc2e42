import type { ReactNode } from 'react';
import { SubRow, useMe } from '#web/base';

const LIST = ['/orders', 'Orders'] as const;
const COUNTER = ['/counter', 'Over the counter'] as const;
const CUSTOMERS = ['/customers', 'Customers'] as const;
const IMPORT = ['/orders/import', 'Import'] as const;
const SENT = ['/orders/sent', 'Sent'] as const;
// Who enters orders keeps customers; who hands goods over stands on the floor.
const LINKS = { lead: [LIST, COUNTER, CUSTOMERS, IMPORT, SENT], office: [LIST, CUSTOMERS, IMPORT, SENT], hand: [LIST, COUNTER] } as const;

/** The screens about what is to leave. Who only looks sees the list. */
export function OrdersFrame({ title, children, act }: { title: string; children: ReactNode; act?: ReactNode }) {
  const { me } = useMe();
  return (
    <>
      <SubRow title={title} links={me ? LINKS[me.role] : [LIST]}>
        {act}
      </SubRow>
      {children}
    </>
  );
}
