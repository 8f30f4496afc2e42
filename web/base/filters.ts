import { useSearchParams } from 'react-router';

/** Filters that live in the address bar: what is seen can be sent to somebody, kept as a bookmark, and comes back after a reload. */
export function useFilters(): {
  of: (name: string) => string;
  set: (name: string, value: string) => void;
  clear: (names: readonly string[]) => void;
} {
  const [search, setSearch] = useSearchParams();
  return {
    of: (name) => search.get(name) ?? '',
    set: (name, value) =>
      setSearch(
        (was) => {
          const next = new URLSearchParams(was);
          if (value) next.set(name, value);
          else next.delete(name);
          return next;
        },
        { replace: true },
      ),
    clear: (names) =>
      setSearch(
        (was) => {
          const next = new URLSearchParams(was);
          for (const name of names) next.delete(name);
          return next;
        },
        { replace: true },
      ),
  };
}
