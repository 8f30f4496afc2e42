import { useState } from 'react';
import { mergeForms, type FormRecord } from './merge.ts';
import { Button } from './parts.tsx';

type Labels<R> = Readonly<Record<keyof R, string>>;
type Clash<R extends FormRecord> = { readonly theirs: R; readonly taken: readonly (keyof R)[]; readonly clashes: readonly (keyof R)[] };

/** Holds a form over a record that somebody else may change meanwhile.
 *  Shape:  `form` is what stands in the fields; `meet` is given the record as it is now after a refusal, takes over what only they changed, and
 *          shows the rest field by field (`panel`) until each is decided. */
export function useSharedForm<R extends FormRecord>(first: R, labels: Labels<R>) {
  const [form, setForm] = useState(first);
  const [base, setBase] = useState(first);
  const [clash, setClash] = useState<Clash<R> | null>(null);
  const meet = (theirs: R): void => {
    const { merged, taken, clashes } = mergeForms(base, form, theirs);
    setForm(merged);
    setBase(theirs);
    setClash({ theirs, taken, clashes });
  };
  const decide = (key: keyof R, value: R[keyof R]): void => {
    setForm((was) => ({ ...was, [key]: value }));
    setClash((was) => was && { ...was, clashes: was.clashes.filter((k) => k !== key) });
  };
  return {
    form,
    set: (part: Partial<R>): void => setForm((was) => ({ ...was, ...part })),
    changed: (Object.keys(base) as (keyof R)[]).some((k) => form[k] !== base[k]),
    undecided: clash !== null && clash.clashes.length > 0,
    meet,
    panel: clash && (
      <section role="alert" className="space-y-2 border-2 border-wrong bg-wrong-pale p-3">
        <p className="font-semibold text-wrong">Somebody else changed this meanwhile. Look at both, then save again.</p>
        {clash.taken.length > 0 && (
          <p>Taken over from them: {clash.taken.map((k) => `${labels[k]} “${shown(clash.theirs[k])}”`).join(', ')}.</p>
        )}
        {clash.clashes.map((k) => (
          <div key={String(k)} className="flex items-center gap-2">
            <span className="w-40 font-semibold">{labels[k]}</span>
            <Button onClick={() => decide(k, form[k])}>Mine: {shown(form[k])}</Button>
            <Button onClick={() => decide(k, clash.theirs[k])}>Theirs: {shown(clash.theirs[k])}</Button>
          </div>
        ))}
      </section>
    ),
  };
}

const shown = (value: unknown): string =>
  value === null || value === '' ? 'empty' : value === true ? 'yes' : value === false ? 'no' : String(value);
