import { Select } from '#web/forms';
import { usePapers } from './papers.tsx';

/** What a chosen size adds to what is asked for: nothing where the printer's own labels do. */
export const sizeOf = (key: string): { size?: string } => (key === '' ? {} : { size: key });

/** Whether a chosen size is one of sheets, which are printed from a PDF and by no label printer. */
export const useIsSheet = (key: string): boolean => usePapers().some((p) => p.key === key && p.sheet !== null);

/** On which labels something is printed: what is in the printer, a common roll, or labels that somebody measured. */
export function PaperChoice({ value, onChange }: { value: string; onChange: (key: string) => void }) {
  const papers = usePapers();
  return (
    <Select
      label="Label size"
      hideLabel
      options={[['', 'on what is in the printer'], ...papers.map((p) => [p.key, p.says] as const)]}
      value={value}
      onChange={onChange}
    />
  );
}
