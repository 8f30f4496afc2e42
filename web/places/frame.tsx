import type { ReactNode } from 'react';
import { SubRow, useMe, useRead } from '#web/base';

const LINKS = [
  ['/places', 'Bins'],
  ['/places/plan', 'Plan'],
  ['/places/build', 'Build'],
  ['/places/import', 'Import'],
  ['/places/unplaced', 'Unplaced'],
  ['/places/site', 'Site and zones'],
] as const;

/** The screens of the places, under the name of the site where one works. */
export function PlacesFrame({ children, act }: { children: ReactNode; act?: ReactNode }) {
  const me = useMe();
  return (
    <>
      <SubRow title={me?.me?.site.name ?? 'Places'} links={LINKS}>
        {act}
      </SubRow>
      {children}
    </>
  );
}

/** The site where one works, with its zones. */
export function useMySite() {
  const me = useMe();
  const { data: sites } = useRead('places.sites', {});
  return { me: me?.me ?? null, site: sites?.sites.find((s) => s.id === me?.me?.site.id) };
}
