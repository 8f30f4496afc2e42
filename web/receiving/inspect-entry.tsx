import { useRef, useState } from 'react';
import type { EntryOut } from '#contract/receiving';
import { Button, Field, sayMoment, Tag, Trouble, uploadFile, useRead, useSend } from '#web/base';
import { toast } from 'sonner';
import { Photos } from './failures.tsx';

/** What was found of an entry, in a line; with its pictures. */
export function Found({ entry }: { entry: EntryOut }) {
  const { data } = useRead('receiving.reasons', {}, { enabled: entry.finding !== null });
  const { finding } = entry;
  if (finding === null) return entry.photos.length > 0 ? <Photos files={entry.photos} /> : null;
  const name = (id: number): string => data?.reasons.find((r) => r.id === id)?.name ?? '';
  const isSample = Number(finding.checked) < Number(entry.qty);
  return (
    <span className="block">
      {finding.failed.length === 0 ? (
        <>passed{isSample && `, a sample of ${finding.checked}`}</>
      ) : (
        <Tag tone="wrong">failed: {finding.failed.map((f) => `${f.qty} ${name(f.reason)}`).join(', ')}</Tag>
      )}
      {finding.failed.length > 0 && isSample && `, of ${finding.checked} looked at`}
      {finding.note && `, “${finding.note}”`}, {finding.by}, {sayMoment(finding.at)}
      {finding.document && `, ${finding.document.number}`}
      <Photos files={entry.photos} />
    </span>
  );
}

/** Says what an inspection found (C11), before the goods are stock or after: then those that failed go to quarantine at once. */
export function InspectEntry({
  delivery,
  entry,
  isPosted,
  onDone,
}: {
  delivery: number;
  entry: EntryOut;
  isPosted: boolean;
  onDone: () => void;
}) {
  const { data } = useRead('receiving.reasons', {});
  const was = entry.finding;
  const [checked, setChecked] = useState(was?.checked ?? entry.qty);
  const [failed, setFailed] = useState<Readonly<Record<number, string>>>(
    Object.fromEntries((was?.failed ?? []).map((f) => [f.reason, f.qty])),
  );
  const [note, setNote] = useState(was?.note ?? '');
  const inspect = useSend('receiving.inspect', {
    quiet: true,
    onDone: (r) => {
      toast.success(r.document === null ? 'Kept.' : `${r.document}: ${entry.code} is where it belongs.`);
      onDone();
    },
  });
  const parts = Object.entries(failed).filter(([, qty]) => qty.trim() !== '' && Number(qty.replace(',', '.')) !== 0);
  const shown = data?.reasons.filter((r) => !r.retired || failed[r.id] !== undefined) ?? [];
  return (
    <form
      aria-label={`Inspect ${entry.code}`}
      className="my-2 w-full space-y-2 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        inspect.mutate({
          params: { id: delivery, entry: entry.id },
          body: {
            checked: checked.replace(',', '.'),
            failed: parts.map(([reason, qty]) => ({ reason: Number(reason), qty: qty.replace(',', '.') })),
            note,
          },
        });
      }}
    >
      <div className="flex flex-wrap items-end gap-2">
        <div className="w-28">
          <Field label={`Looked at, of ${entry.qty}`} inputMode="decimal" value={checked} onChange={(e) => setChecked(e.target.value)} />
        </div>
        {shown.map((r) => (
          <div key={r.id} className="w-28">
            <Field
              label={r.name}
              inputMode="decimal"
              value={failed[r.id] ?? ''}
              onChange={(e) => setFailed({ ...failed, [r.id]: e.target.value })}
            />
          </div>
        ))}
      </div>
      <Field label="What else there is to say" value={note} maxLength={200} onChange={(e) => setNote(e.target.value)} />
      <Trouble error={inspect.error} />
      <div className="flex flex-wrap gap-2">
        <Button look="next" type="submit" disabled={inspect.isPending || !checked.trim()}>
          {parts.length === 0 ? 'All that was looked at passed' : isPosted ? 'Failed: to quarantine' : 'Keep what failed'}
        </Button>
        <AddPhoto delivery={delivery} entry={entry} />
        <Button onClick={onDone}>Leave it</Button>
      </div>
    </form>
  );
}

function AddPhoto({ delivery, entry }: { delivery: number; entry: EntryOut }) {
  const input = useRef<HTMLInputElement>(null);
  const [isSending, setIsSending] = useState(false);
  const add = useSend('receiving.photo', { onDone: () => toast.success('The picture is kept.') });
  const take = async (file: File): Promise<void> => {
    setIsSending(true);
    try {
      const { id } = await uploadFile(file);
      add.mutate({ params: { id: delivery, entry: entry.id }, body: { file: id } });
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setIsSending(false);
    }
  };
  return (
    <>
      <input
        ref={input}
        type="file"
        accept="image/*"
        className="sr-only"
        aria-label={`Picture of ${entry.code}`}
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          e.target.value = '';
          if (file) void take(file);
        }}
      />
      <Button disabled={isSending || add.isPending} onClick={() => input.current?.click()}>
        {isSending ? 'Sending the picture …' : 'Add a picture'}
      </Button>
    </>
  );
}
