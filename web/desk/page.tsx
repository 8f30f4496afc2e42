import { lazy, useEffect, useState, type ComponentType } from 'react';

type Load<Props> = () => Promise<ComponentType<Props>>;
const loads: (() => Promise<unknown>)[] = [];

/** A page that is fetched when it is opened, or beforehand by `useLoadPages`. One that is there already is drawn at once, in the place of
 *  the page before: nobody sees a moment of nothing. */
export function pageOf<Props extends object>(load: Load<Props>, { isHeavy = false } = {}): ComponentType<Props> {
  let there: ComponentType<Props> | null = null;
  const fetch: Load<Props> = () => load().then((page) => (there = page));
  const Late = lazy(() => fetch().then((page) => ({ default: page as ComponentType<object> }))) as unknown as ComponentType<Props>;
  if (!isHeavy) loads.push(fetch);
  return function Page(props: Props) {
    // As it was when this page was opened: another one in its place would lose what is typed on it.
    const [Shown] = useState(() => there ?? Late);
    return <Shown {...props} />;
  };
}

// Long enough for the first screen to have asked for what it shows.
const AFTER_MS = 1500;

/** Fetches the pages one after the other while nothing else is done, once the first screen stands. */
export function useLoadPages(): void {
  useEffect(() => {
    let isLeft = false;
    const timer = setTimeout(() => void loadAll(() => isLeft), AFTER_MS);
    return () => {
      isLeft = true;
      clearTimeout(timer);
    };
  }, []);
}

async function loadAll(isLeft: () => boolean): Promise<void> {
  for (const load of loads) {
    if (isLeft()) return;
    // Without a connection the rest waits until it is opened.
    if ((await load().catch(() => null)) === null) return;
  }
}
