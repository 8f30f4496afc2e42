import { useState, type FormEvent } from 'react';
import { useForm, type DefaultValues, type FieldValues, type Path } from 'react-hook-form';
import type { Problem, ReplyOf, RouteName, Routes } from '#contract';
import { Refused, useSend } from '#web/base';
import { faultsOf, type Faults } from './faults.ts';

type InputOf<K extends RouteName> = Parameters<ReturnType<typeof useSend<K>>['mutateAsync']>[0];

/** A form that sends one command: its values are judged by the command's own schema before they go, and what the server refuses stands at
 *  the field that it is about. What was typed stays, whatever is said of it.
 *  Shape:  `first` are the values at first; `input` makes the command's input of them. `at` says at which field a refusal stands: by its
 *          code, or by the name that the command has for what a field of another name holds. What is about no field is `trouble`. */
export function useCommandForm<K extends RouteName, V extends FieldValues>(
  name: K,
  {
    first,
    input,
    at = {},
    onDone,
    onRefused,
  }: {
    first: V;
    input: (values: V) => InputOf<K>;
    at?: Readonly<Record<string, keyof V & string>>;
    onDone?: (reply: ReplyOf<Routes[K]>, values: V) => void;
    /** Told each refusal first; true where it has done with it. */
    onRefused?: (problem: Problem, values: V) => Promise<boolean>;
  },
) {
  const form = useForm<V>({ defaultValues: first as DefaultValues<V>, shouldFocusError: true });
  const { errors } = form.formState;
  const [trouble, setTrouble] = useState<Error | null>(null);
  const send = useSend(name, { quiet: true });
  const values = form.watch();
  const show = ({ fields, rest }: Faults<keyof V & string>): void => {
    const told = Object.entries<string | undefined>(fields);
    for (const [field, message = ''] of told) form.setError(field as Path<V>, { message });
    const [firstOf] = told;
    if (firstOf) form.setFocus(firstOf[0] as Path<V>);
    setTrouble(rest === null ? null : new Error(rest));
  };
  const submit = async (typed: V): Promise<void> => {
    setTrouble(null);
    const command = input(typed);
    const wrong = await judge(name, (command as { body?: unknown }).body ?? {});
    if (wrong.length > 0) return show(faultsOf(wrong, Object.keys(first), at));
    try {
      const reply = await send.mutateAsync(command);
      onDone?.(reply, typed);
    } catch (error) {
      if (!(error instanceof Refused)) return setTrouble(error as Error);
      if (await onRefused?.(error.problem, typed)) return;
      show(faultsOfRefusal(error.problem, Object.keys(first), at));
    }
  };
  const problemOf = (field: keyof V & string): string | undefined => (errors[field]?.message as string | undefined) || undefined;
  return {
    values,
    /** What an input needs that holds one of the values. */
    field: (field: keyof V & string) => ({ ...form.register(field as Path<V>), problem: problemOf(field) }),
    /** The same for what is chosen and not typed. */
    chosen: <F extends keyof V & string>(field: F) => ({
      value: values[field] as V[F],
      onChange: (value: V[F]): void => form.setValue(field as unknown as Path<V>, value, { shouldDirty: true, shouldValidate: false }),
      problem: problemOf(field),
    }),
    set: (part: Partial<V>): void => {
      for (const [field, value] of Object.entries(part)) form.setValue(field as Path<V>, value as never, { shouldDirty: true });
    },
    reset: (to: Partial<V> = {}): void => {
      setTrouble(null);
      form.reset({ ...first, ...to });
    },
    submit: (event: FormEvent): void => {
      // What was said of the last try is judged anew: a field that is chosen and not typed would keep it, and with it the form.
      form.clearErrors();
      void form.handleSubmit(submit)(event);
    },
    isDirty: form.formState.isDirty,
    isSending: send.isPending,
    isSent: send.isSuccess,
    trouble,
  };
}

type Schema = { safeParse(body: unknown): { error?: { issues: Problems } } };

// The schemas come with the first form that is sent. Where they cannot be fetched the server judges alone, as it does of everything.
async function judge(name: RouteName, body: unknown): Promise<Problems> {
  try {
    const { WHOLE_ROUTES } = await import('#contract/whole');
    return (WHOLE_ROUTES[name] as { body?: Schema }).body?.safeParse(body).error?.issues ?? [];
  } catch {
    return [];
  }
}

type Problems = readonly { readonly path: readonly PropertyKey[]; readonly message: string }[];

function faultsOfRefusal<F extends string>(problem: Problem, known: readonly string[], at: Readonly<Record<string, F>>): Faults<F> {
  const field = at[problem.code];
  if (field !== undefined) return { fields: { [field]: problem.detail } as Partial<Record<F, string>>, rest: null };
  const told = problem['fields'] as readonly { field: string; problem: string }[] | undefined;
  if (problem.code !== 'request.fields' || !told) return { fields: {}, rest: problem.detail };
  return faultsOf(
    told.map((t) => ({ path: t.field.split('.'), message: t.problem })),
    known,
    at,
  );
}

/** What a tick needs of a field's holder: it says nothing of a problem. */
export function ticked<F extends { problem: unknown }>({ problem: _, ...field }: F): Omit<F, 'problem'> {
  return field;
}
