import { useRef, type KeyboardEvent, type RefObject } from 'react';

/** For a sheet that is keyed from top to bottom: Enter goes on to the next field, as the eye goes down the paper; the last one posts. */
export function useNextField(): { ref: RefObject<HTMLFormElement | null>; onKeyDown: (e: KeyboardEvent<HTMLFormElement>) => void } {
  const ref = useRef<HTMLFormElement>(null);
  const onKeyDown = (e: KeyboardEvent<HTMLFormElement>): void => {
    if (e.key !== 'Enter' || !(e.target instanceof HTMLInputElement)) return;
    const all = [...(ref.current?.querySelectorAll('input') ?? [])];
    const next = all[all.indexOf(e.target) + 1];
    if (!next) return;
    e.preventDefault();
    next.focus();
    next.select();
  };
  return { ref, onKeyDown };
}
