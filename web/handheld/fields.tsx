import { lazy, Suspense, type ComponentProps } from 'react';

// What opens something comes after the first screen: a handheld on bad wireless has that at once.
const LateSelect = lazy(() => import('#web/forms').then((forms) => ({ default: forms.Select<number> })));
const LateDate = lazy(() => import('#web/forms').then((forms) => ({ default: forms.DateField })));
const room = <span className="block min-h-20" />;

/** A choice of a few, in the size of a glove. */
export function TallSelect(props: Omit<ComponentProps<typeof LateSelect>, 'tall'>) {
  return (
    <Suspense fallback={room}>
      <LateSelect tall {...props} />
    </Suspense>
  );
}

/** A day, in the size of a glove. */
export function TallDate(props: Omit<ComponentProps<typeof LateDate>, 'tall'>) {
  return (
    <Suspense fallback={room}>
      <LateDate tall {...props} />
    </Suspense>
  );
}
