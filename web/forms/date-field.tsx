import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { CalendarDays } from 'lucide-react';
import { lazy, Suspense, useId, useState } from 'react';
import { readDay } from '#core/base';
import { fieldShape, Problem, sayDate, siteToday } from '#web/base';

const Calendar = lazy(() => import('./calendar.tsx'));
const UNREADABLE = 'Key a day such as 24 Nov 2026, 24.11.26 or +7.';

/** A day, keyed as people write it or chosen from a calendar.
 *  Shape:  `value` and what `onChange` is given are `YYYY-MM-DD`, or empty for none; what cannot be read stays in the field, said to be
 *          so. */
export function DateField({
  label,
  value,
  onChange,
  problem,
  tall = false,
  hideLabel = false,
  autoFocus = false,
  disabled = false,
}: {
  label: string;
  value: string;
  onChange: (day: string) => void;
  problem?: string | undefined;
  tall?: boolean;
  hideLabel?: boolean;
  autoFocus?: boolean;
  disabled?: boolean;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const [name, wrong] = [useId(), useId()];
  const read = typed === null || typed.trim() === '' ? '' : readDay(typed, siteToday());
  const settle = (): void => {
    if (read !== null) setTyped(null);
  };
  const fault = typed !== null && read === null ? UNREADABLE : problem;
  return (
    <div className="block">
      <label htmlFor={name} className={hideLabel ? 'sr-only' : 'block text-sm text-soft'}>
        {label}
      </label>
      <span className={`flex items-stretch ${fieldShape(tall, fault !== undefined)} pr-0!`}>
        <input
          id={name}
          value={typed ?? (value ? sayDate(value) : '')}
          autoFocus={autoFocus}
          disabled={disabled}
          autoComplete="off"
          placeholder="day, month, year"
          {...(fault ? { 'aria-invalid': true, 'aria-describedby': wrong } : {})}
          className="w-0 min-w-28 flex-1 bg-transparent outline-none placeholder:text-sm placeholder:text-soft"
          onChange={(e) => {
            setTyped(e.target.value);
            const day = e.target.value.trim() === '' ? '' : readDay(e.target.value, siteToday());
            onChange(day ?? '');
          }}
          onBlur={settle}
          onKeyDown={(e) => {
            if (e.key === 'Enter') settle();
          }}
        />
        <Popover className="flex">
          <PopoverButton
            aria-label={`Calendar: ${label}`}
            disabled={disabled}
            className={`grid place-items-center text-soft hover:bg-shade hover:text-ink ${tall ? 'w-14' : 'w-8'}`}
          >
            <CalendarDays aria-hidden className="size-5" />
          </PopoverButton>
          <PopoverPanel
            anchor={{ to: 'bottom end', gap: 4, padding: 8 }}
            className="z-50 rounded border-2 border-ink bg-sheet p-2 text-base"
            focus
          >
            {({ close }) => (
              <Suspense fallback={<p className="p-4 text-soft">One moment …</p>}>
                <Calendar
                  day={value}
                  today={siteToday()}
                  onChoose={(day) => {
                    setTyped(null);
                    onChange(day);
                    close();
                  }}
                />
              </Suspense>
            )}
          </PopoverPanel>
        </Popover>
      </span>
      <Problem id={wrong}>{fault}</Problem>
    </div>
  );
}
