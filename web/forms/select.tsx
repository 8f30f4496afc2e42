import { Field as FieldFrame, Label, Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react';
import { Check, ChevronDown } from 'lucide-react';
import { useId, useRef } from 'react';
import { fieldShape, Problem, useTied } from '#web/base';

export type Option<V extends string | number> = readonly [value: V, label: string];

/** A choice of a few, with its label above. What it is of can be typed, too. */
export function Select<const V extends string | number>({
  label,
  hideLabel = false,
  options,
  value,
  onChange,
  tall = false,
  disabled = false,
  className = '',
  problem,
}: {
  label: string;
  hideLabel?: boolean;
  options: readonly Option<V>[];
  value: V | undefined;
  onChange: (value: V) => void;
  tall?: boolean;
  disabled?: boolean;
  className?: string;
  problem?: string | undefined;
}) {
  const wrong = useId();
  const field = useRef<HTMLButtonElement>(null);
  useTied(field, wrong, problem);
  const text = options.find(([v]) => v === value)?.[1] ?? '';
  // Both are its labels: what it is of, and what is chosen.
  return (
    <FieldFrame className={hideLabel ? 'inline-block' : 'block'} disabled={disabled}>
      <Label as="span" className={hideLabel ? 'sr-only' : 'block text-sm text-soft'}>
        {label}
      </Label>
      <Listbox value={value ?? null} onChange={(v: V | null) => v !== null && onChange(v)}>
        <ListboxButton
          ref={field}
          className={`flex items-center gap-1 text-left disabled:opacity-40 ${hideLabel ? '' : 'w-full'}
            ${fieldShape(tall, problem !== undefined)} ${className}`}
        >
          <Label as="span" passive className="min-w-0 flex-1 truncate">
            {text}
          </Label>
          <ChevronDown aria-hidden className="size-4 shrink-0 text-soft" />
        </ListboxButton>
        <ListboxOptions
          modal={false}
          anchor={{ to: 'bottom start', gap: 2, padding: 8 }}
          className="z-50 max-h-[60vh]! overflow-y-auto min-w-(--button-width) rounded border-2 border-ink bg-sheet py-1 outline-none"
        >
          {options.map(([v, words]) => (
            <ListboxOption
              key={v}
              value={v}
              className={`flex cursor-pointer items-center gap-2 px-2 data-focus:bg-shade data-selected:font-semibold
                ${tall ? 'min-h-14 text-xl' : 'min-h-8'}`}
            >
              <Check aria-hidden className={`size-4 shrink-0 ${v === value ? '' : 'invisible'}`} />
              {words || <span className="text-soft">none</span>}
            </ListboxOption>
          ))}
        </ListboxOptions>
      </Listbox>
      <Problem id={wrong}>{problem}</Problem>
    </FieldFrame>
  );
}
