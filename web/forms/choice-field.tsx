import { Combobox, ComboboxButton, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react';
import { ChevronDown, X } from 'lucide-react';
import { useDeferredValue, useEffect, useId, useRef, useState } from 'react';
import type { Choice, ChoiceKind } from '#contract/desk';
import { fieldShape, ItemPicture, Plate, Problem, read, sound, useRead, useScanner, useTied } from '#web/base';
import { chosenByScan, WHAT } from './chosen.ts';
import { NOBODY_THERE, stepChoosing, type ChoosingEvent } from './choosing.ts';

const SCANNED: readonly ChoiceKind[] = ['item', 'bin', 'order', 'document'];

/** A field that names an item, bin, customer, supplier, order, document or person: keyed by code or words, walked with the arrow keys, or
 *  scanned.
 *  Shape:  `value` is what is chosen, or null; `onChange` is given null where the field is emptied. A scan chooses at once while the field
 *          has the focus; one that names another kind of thing says so and leaves what was chosen. */
export function ChoiceField({
  kind,
  label,
  value,
  onChange,
  problem,
  hideLabel = false,
  autoFocus = false,
  disabled = false,
  placeholder = '',
}: {
  kind: ChoiceKind;
  label: string;
  value: Choice | null;
  onChange: (choice: Choice | null) => void;
  problem?: string | undefined;
  hideLabel?: boolean;
  autoFocus?: boolean;
  disabled?: boolean;
  placeholder?: string;
}) {
  const [state, setState] = useState(NOBODY_THERE);
  const { typed, isHere, scans, byScan } = state;
  const [name, wrong] = [useId(), useId()];
  const words = useDeferredValue(typed.trim());
  const { data, error, isPlaceholderData } = useRead('desk.choices', { query: { kind, q: words } }, { enabled: isHere, keep: true });
  const field = useRef<HTMLInputElement>(null);
  // What happened is judged by the state as it is now: a scan is looked up meanwhile, and what comes of it comes later.
  const now = useRef(state);
  const tell = (event: ChoosingEvent): void => {
    const step = stepChoosing(now.current, event);
    now.current = step.state;
    setState(step.state);
    if (step.chosen !== undefined && (step.chosen !== null || value !== null)) onChange(step.chosen);
  };
  const telling = useRef(tell);
  const shown = useRef('');
  useEffect(() => {
    telling.current = tell;
    shown.current = byScan ?? (value ? textOf(kind, value) : '');
  });
  // What a scanner typed is taken out of the field again, which then takes itself to be emptied by hand. So it is told what stands in it,
  // left and entered anew.
  useEffect(() => {
    if (scans === 0 || !field.current) return;
    field.current.value = shown.current;
    field.current.blur();
    field.current.focus();
  }, [scans]);
  const fault = state.problem ?? problem;
  useTied(field, wrong, fault);
  const choices = data?.choices ?? [];
  // What was typed and what was found for it may be a moment apart.
  const isSettled = words === typed.trim() && !isPlaceholderData && data !== undefined;
  const [first] = choices;
  useEffect(() => {
    if (isSettled) telling.current({ kind: 'settled', first: first ? { choice: first, words: textOf(kind, first) } : null });
  }, [isSettled, first, kind, state.isWaiting]);
  return (
    <div className="block">
      <label htmlFor={name} className={hideLabel ? 'sr-only' : 'block text-sm text-soft'}>
        {label}
      </label>
      <Combobox
        immediate={scans === 0}
        value={value}
        by="id"
        onChange={(choice: Choice | null) => tell({ kind: 'listed', choice })}
        disabled={disabled}
        onClose={() => tell({ kind: 'listClosed' })}
      >
        <span className={`flex items-stretch pr-0! ${fieldShape(false, fault !== undefined)}`}>
          <ComboboxInput
            ref={field}
            id={name}
            autoFocus={autoFocus}
            autoComplete="off"
            spellCheck={false}
            placeholder={placeholder || (SCANNED.includes(kind) ? 'Code, words or a scan' : 'Name or code')}
            displayValue={(choice: Choice | null) => (choice ? textOf(kind, choice) : '')}
            {...(fault ? { 'aria-invalid': true } : {})}
            className="w-0 min-w-24 flex-1 bg-transparent outline-none placeholder:text-sm placeholder:text-soft"
            onFocus={() => tell({ kind: 'came' })}
            onBlur={() => tell({ kind: 'left' })}
            onChange={(e) => tell({ kind: 'keyed', text: e.target.value })}
            onKeyDown={(e) => {
              if (e.key !== 'Enter' || typed === '') return;
              if (!isSettled) e.preventDefault();
              tell({ kind: 'entered', isSettled });
            }}
          />
          {value && !disabled && (
            <button
              type="button"
              aria-label={`Empty ${label}`}
              className="grid w-8 place-items-center text-soft hover:text-ink"
              onClick={() => {
                tell({ kind: 'emptied' });
                field.current?.focus();
              }}
            >
              <X aria-hidden className="size-4" />
            </button>
          )}
          <ComboboxButton aria-label={`Choices of ${label}`} className="grid w-7 place-items-center text-soft hover:text-ink">
            <ChevronDown aria-hidden className="size-4" />
          </ComboboxButton>
        </span>
        <ComboboxOptions
          modal={false}
          anchor={{ to: 'bottom start', gap: 2, padding: 8 }}
          className="z-50 max-h-[60vh]! w-max max-w-[32rem] min-w-72 overflow-y-auto rounded border-2 border-ink bg-sheet
            outline-none empty:hidden"
        >
          {choices.map((choice) => (
            <ComboboxOption
              key={choice.id}
              value={choice}
              className="flex cursor-pointer items-center gap-3 border-b border-line px-2 py-1 last:border-0 data-focus:bg-shade
                data-selected:font-semibold"
            >
              <Shown kind={kind} choice={choice} />
            </ComboboxOption>
          ))}
          {data && choices.length === 0 && isSettled && (
            <p className="px-2 py-1 text-soft">
              No {WHAT[kind].one} is known by “{words}”.
            </p>
          )}
          {data?.more && (
            <p className="sticky bottom-0 border-t-2 border-ink/60 bg-sheet px-2 py-1 text-sm text-soft">
              There are more: key another word.
            </p>
          )}
          {error && <p className="px-2 py-1 font-semibold text-wrong">{error.message}</p>}
        </ComboboxOptions>
        {/* Nobody bears a code of a supplier or customer: once one is chosen, a scan is for the screen. */}
        {isHere && (value === null || SCANNED.includes(kind)) && (
          <TakesScan
            onScan={(code) => {
              read('desk.scan', { query: { code } }).then(
                (found) => {
                  const { choice, problem: none } = chosenByScan(kind, found, code);
                  sound(choice ? 'right' : 'look');
                  telling.current(
                    choice ? { kind: 'scanned', choice, words: textOf(kind, choice) } : { kind: 'missed', problem: none ?? '' },
                  );
                },
                (failed: Error) => {
                  sound('wrong');
                  telling.current({ kind: 'missed', problem: failed.message });
                },
              );
            }}
          />
        )}
      </Combobox>
      <Problem id={wrong}>{fault}</Problem>
    </div>
  );
}

// The screen on top gets the scans: while the field has the focus, that is the field.
function TakesScan({ onScan }: { onScan: (code: string) => void }) {
  useScanner(onScan);
  return null;
}

const textOf = (kind: ChoiceKind, { code, name }: Choice): string =>
  ['bin', 'person', 'document'].includes(kind) ? code : kind === 'customer' || kind === 'supplier' ? name : `${code} ${name}`;

function Shown({ kind, choice }: { kind: ChoiceKind; choice: Choice }) {
  if (kind === 'customer' || kind === 'supplier')
    return (
      <>
        <span className="flex-1">{choice.name}</span>
        <span className="code text-soft">{choice.code}</span>
      </>
    );
  return (
    <>
      {kind === 'item' && <ItemPicture item={choice.id} />}
      {kind === 'bin' ? <Plate address={choice.code} /> : <span className="code text-lg">{choice.code}</span>}
      <span className="min-w-0 flex-1 truncate font-normal text-soft">{choice.name}</span>
    </>
  );
}

/** What a number in the address bar stands for, to be shown in its field.
 *  Shape:  `id` is a number as text, or empty; null while it is not known, and where there is none of that number. */
export function useChoice(kind: ChoiceKind, id: string): Choice | null {
  const isAsked = /^\d+$/.test(id);
  const { data } = useRead('desk.choices', { query: { kind, id: Number(id) } }, { enabled: isAsked });
  return isAsked ? (data?.choices[0] ?? null) : null;
}

/** A field that is chosen by name and kept in the address bar. */
export function usePicked(
  kind: ChoiceKind,
  id: string,
  set: (id: string) => void,
): readonly [Choice | null, (choice: Choice | null) => void] {
  const known = useChoice(kind, id);
  const [last, setLast] = useState<Choice | null>(null);
  useEffect(() => setLast((was) => (String(was?.id ?? '') === id ? was : null)), [id]);
  return [
    last ?? known,
    (choice) => {
      setLast(choice);
      set(choice ? String(choice.id) : '');
    },
  ];
}
