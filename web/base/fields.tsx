import { useEffect, useId, type InputHTMLAttributes, type ReactNode, type Ref, type RefObject } from 'react';

/** How every field looks: one frame, a taller one for gloves. */
export const fieldShape = (tall = false, isWrong = false): string =>
  `rounded border-2 bg-sheet ${isWrong ? 'border-wrong' : 'border-ink/60'} ${tall ? 'min-h-14 px-2 text-2xl' : 'min-h-9 px-2'}`;

/** What is wrong with a field, beside it, and tied to it for who does not see it. */
export function Problem({ id, children }: { id: string; children: string | undefined }) {
  return children ? (
    <span id={id} role="alert" className="block text-sm font-semibold text-wrong">
      {children}
    </span>
  ) : null;
}

/** Ties what is wrong to an input that a library draws, which takes no such tie itself. */
export function useTied(field: RefObject<HTMLElement | null>, problemId: string, problem: string | undefined): void {
  useEffect(() => {
    if (problem) field.current?.setAttribute('aria-describedby', problemId);
    else field.current?.removeAttribute('aria-describedby');
  }, [field, problemId, problem]);
}

/** A field with its label above and what is wrong beside it. `code` says that it takes a code: a scan into it stays in it. */
export function Field({
  label,
  problem,
  tall = false,
  code = false,
  hideLabel = false,
  className = '',
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & {
  label: string;
  problem?: string | undefined;
  tall?: boolean;
  code?: boolean;
  hideLabel?: boolean;
  ref?: Ref<HTMLInputElement>;
}) {
  const id = useId();
  return (
    <div className="block">
      <label className="block">
        <span className={hideLabel ? 'sr-only' : 'block text-sm text-soft'}>{label}</span>
        <input
          {...(code ? { 'data-takes-code': '', autoComplete: 'off', spellCheck: false } : {})}
          {...(problem ? { 'aria-invalid': true, 'aria-describedby': id } : {})}
          {...rest}
          className={`w-full ${fieldShape(tall, problem !== undefined)} ${className}`}
        />
      </label>
      <Problem id={id}>{problem}</Problem>
    </div>
  );
}

/** What a list is searched by, as one types. */
export function SearchBox({ label, className = 'w-48', ...rest }: InputHTMLAttributes<HTMLInputElement> & { label: string }) {
  return <input type="search" aria-label={label} {...rest} className={`${fieldShape()} ${className}`} />;
}

/** A yes or no with its words beside it. */
export function Tick({ label, ...rest }: InputHTMLAttributes<HTMLInputElement> & { label: ReactNode; ref?: Ref<HTMLInputElement> }) {
  return (
    <label className="flex min-h-9 items-center gap-2">
      <input type="checkbox" {...rest} className="size-5 accent-[var(--color-ink)]" /> {label}
    </label>
  );
}
