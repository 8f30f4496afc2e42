import { DayPicker } from 'react-day-picker';

// Plain days have no time: the calendar reckons in the browser's own, where noon is the same day everywhere.
const toDate = (day: string): Date => new Date(`${day}T12:00:00`);
const toDay = (at: Date): string =>
  `${at.getFullYear()}-${String(at.getMonth() + 1).padStart(2, '0')}-${String(at.getDate()).padStart(2, '0')}`;

/** A month to choose a day from. `day`, `today` and what is chosen are `YYYY-MM-DD`. */
export default function Calendar({ day, today, onChoose }: { day: string; today: string; onChoose: (day: string) => void }) {
  return (
    <DayPicker
      mode="single"
      weekStartsOn={1}
      autoFocus
      today={toDate(today)}
      defaultMonth={toDate(day || today)}
      selected={day ? toDate(day) : undefined}
      onSelect={(at) => at && onChoose(toDay(at))}
      classNames={{
        months: 'relative',
        month_caption: 'flex h-9 items-center px-2 font-bold',
        nav: 'absolute top-0 right-0 flex',
        button_previous: 'grid size-9 place-items-center rounded hover:bg-shade',
        button_next: 'grid size-9 place-items-center rounded hover:bg-shade',
        chevron: 'size-4 fill-ink',
        weekday: 'size-9 text-sm font-normal text-soft',
        day: 'size-9 p-0 text-center',
        day_button: 'size-9 rounded hover:bg-shade',
        today: 'font-bold underline underline-offset-4',
        selected: 'rounded bg-ink text-paper',
        outside: 'text-soft',
      }}
    />
  );
}
