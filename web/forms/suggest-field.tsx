import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react';
import { useId, useRef } from 'react';
import { fieldShape, Problem, useTied } from '#web/base';

/** A field for a word that was often used before, or a new one: those that contain what was typed are offered.
 *  Shape:  `value` is the text in the field; what is typed holds as it is, what is offered is only quicker. */
export function SuggestField({
  label,
  value,
  onChange,
  known,
  problem,
}: {
  label: string;
  value: string;
  onChange: (text: string) => void;
  known: readonly string[];
  problem?: string | undefined;
}) {
  const [name, wrong] = [useId(), useId()];
  const field = useRef<HTMLInputElement>(null);
  useTied(field, wrong, problem);
  const typed = value.trim().toLowerCase();
  const offered = known.filter((k) => k.toLowerCase().includes(typed) && k.toLowerCase() !== typed);
  return (
    <div className="block">
      <label htmlFor={name} className="block text-sm text-soft">
        {label}
      </label>
      <Combobox immediate value={value} onChange={(text: string | null) => text !== null && onChange(text)}>
        <ComboboxInput
          ref={field}
          id={name}
          autoComplete="off"
          {...(problem ? { 'aria-invalid': true } : {})}
          className={`w-full ${fieldShape(false, problem !== undefined)}`}
          onChange={(e) => onChange(e.target.value)}
        />
        <ComboboxOptions
          modal={false}
          anchor={{ to: 'bottom start', gap: 2, padding: 8 }}
          className="z-50 max-h-60! w-(--input-width) overflow-y-auto rounded border-2 border-ink bg-sheet py-1 outline-none empty:hidden"
        >
          {typed !== '' && <ComboboxOption value={value} className="hidden" />}
          {offered.map((word) => (
            <ComboboxOption key={word} value={word} className="cursor-pointer px-2 py-1 data-focus:bg-shade">
              {word}
            </ComboboxOption>
          ))}
        </ComboboxOptions>
      </Combobox>
      <Problem id={wrong}>{problem}</Problem>
    </div>
  );
}
