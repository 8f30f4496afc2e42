import { useState } from 'react';
import type { ReplyOf, RouteName, Routes } from '#contract';
import { Button } from '#web/base';
import { useCommandForm } from './command-form.ts';
import { mergeForms, type FormRecord } from './merge.ts';

type Clash<R extends FormRecord> = { readonly theirs: R; readonly taken: readonly (keyof R)[]; readonly clashes: readonly (keyof R)[] };
type CommandInput<K extends RouteName, R extends FormRecord> = ReturnType<Parameters<typeof useCommandForm<K, R>>[1]['input']>;

/** A form over a record that somebody else may change meanwhile: what only they changed is taken over, the rest is shown field by field
 *  (`panel`) until each is decided.
 *  Shape:  like `useCommandForm`; `input` is given the version that was looked at. `meanwhile` is the code of the refusal that says that
 *          the record has another version now, and `readAgain` reads that. After a success the form goes on from what was saved. */
export function useSharedForm<K extends RouteName, R extends FormRecord>(
  name: K,
  {
    labels,
    version: firstVersion,
    input,
    meanwhile,
    readAgain,
    ...rest
  }: {
    first: R;
    version: number;
    labels: Readonly<Record<keyof R, string>>;
    input: (values: R, version: number) => CommandInput<K, R>;
    meanwhile: string;
    readAgain: () => Promise<{ values: R; version: number }>;
    at?: Readonly<Record<string, keyof R & string>>;
    onDone?: (reply: ReplyOf<Routes[K]>, values: R) => void;
  },
) {
  const [base, setBase] = useState(rest.first);
  const [version, setVersion] = useState(firstVersion);
  const [clash, setClash] = useState<Clash<R> | null>(null);
  const form = useCommandForm<K, R>(name, {
    ...rest,
    input: (values) => input(values, version),
    onDone: (reply, values) => {
      setBase(values);
      setClash(null);
      setVersion((reply as { version?: number }).version ?? version);
      rest.onDone?.(reply, values);
    },
    onRefused: async (problem, values) => {
      if (problem.code !== meanwhile) return false;
      const theirs = await readAgain();
      const { merged, taken, clashes } = mergeForms(base, values, theirs.values);
      form.set(merged);
      setBase(theirs.values);
      setVersion(theirs.version);
      setClash({ theirs: theirs.values, taken, clashes });
      return true;
    },
  });
  const decide = (key: keyof R & string, value: R[keyof R]): void => {
    form.set({ [key]: value } as unknown as Partial<R>);
    setClash((was) => was && { ...was, clashes: was.clashes.filter((k) => k !== key) });
  };
  return {
    ...form,
    isChanged: (Object.keys(base) as (keyof R)[]).some((k) => form.values[k] !== base[k]),
    isUndecided: clash !== null && clash.clashes.length > 0,
    panel: clash && (
      <section role="alert" className="space-y-2 border-2 border-wrong bg-wrong-pale p-3">
        <p className="font-semibold text-wrong">Somebody else changed this meanwhile. Look at both, then save again.</p>
        {clash.taken.length > 0 && (
          <p>Taken over from them: {clash.taken.map((k) => `${labels[k]} “${shown(clash.theirs[k])}”`).join(', ')}.</p>
        )}
        {clash.clashes.map((k) => (
          <div key={String(k)} className="flex items-center gap-2">
            <span className="w-40 font-semibold">{labels[k]}</span>
            <Button onClick={() => decide(k as keyof R & string, form.values[k])}>Mine: {shown(form.values[k])}</Button>
            <Button onClick={() => decide(k as keyof R & string, clash.theirs[k])}>Theirs: {shown(clash.theirs[k])}</Button>
          </div>
        ))}
      </section>
    ),
  };
}

const shown = (value: unknown): string =>
  value === null || value === '' ? 'empty' : value === true ? 'yes' : value === false ? 'no' : String(value);
