import { useState } from 'react';
import type { Item } from '#contract/items';
import { Trouble, uploadFile, useSend } from '#web/base';
import { FileDrop } from '#web/work';

/** Pictures and documents of an item (B5). */
export function Files({ item, mayChange }: { item: Item; mayChange: boolean }) {
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Error | null>(null);
  const attach = useSend('items.attach', { quiet: true });
  if (item.files.length === 0 && !mayChange) return null;
  return (
    <div>
      <h2 className="mb-1 border-b-2 border-ink font-bold">Pictures and documents</h2>
      <ul className="grid grid-cols-3 gap-2 py-1">
        {item.files.map((f) => (
          <li key={f.id} className="text-sm">
            <a href={`/api/files/${f.id}`} target="_blank" rel="noreferrer" className="block border border-line bg-sheet">
              {f.type.startsWith('image/') ? (
                <img src={`/api/files/${f.id}?thumb`} alt={f.name} className="h-20 w-full bg-white object-contain" />
              ) : (
                <span className="code grid h-20 place-items-center text-2xl">PDF</span>
              )}
            </a>
            <span className="block truncate" title={f.name}>
              {f.name}
            </span>
            {mayChange && (
              <button
                type="button"
                aria-label={`Remove ${f.name}`}
                className="block min-h-8 w-full text-left text-soft underline"
                onClick={() => attach.mutate({ params: { id: item.id }, body: { file: f.id, remove: true } })}
              >
                Remove
              </button>
            )}
          </li>
        ))}
      </ul>
      {mayChange && (
        <FileDrop
          label="Drop a picture or PDF"
          accept="image/*,.pdf"
          busy={busy}
          onFile={(file) => {
            setBusy(true);
            setProblem(null);
            uploadFile(file)
              .then((sent) => attach.mutate({ params: { id: item.id }, body: { file: sent.id } }), setProblem)
              .finally(() => setBusy(false));
          }}
        />
      )}
      <Trouble error={problem ?? attach.error} />
    </div>
  );
}
