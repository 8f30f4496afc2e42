import { useState } from 'react';
import { useSearchParams } from 'react-router';
import type { ListRow } from '#contract/items';
import { Button, Empty, read, send, useRead, sayMoney } from '#web/base';
import { useQueue } from './queue.ts';
import { NumberOf, Screen, type LastScan } from './screen.tsx';

/** Quick add (B6): scan what is on a supplier's list, key how many, scan the bin; the item, its stock and its label are there. */
export function QuickAdd() {
  const [search] = useSearchParams();
  const [code, setCode] = useState(search.get('code') ?? '');
  const [row, setRow] = useState<ListRow | null>(null);
  const [qty, setQty] = useState('1');
  const [labels, setLabels] = useState<'one' | 'all' | 'none'>('one');
  const [last, setLast] = useState<readonly LastScan[]>([]);
  const { data: found } = useRead('items.search', { query: { q: code, over: 'lists' } }, { enabled: code.length > 1 && row === null });
  const open = (found?.listRows ?? []).filter((r) => r.item === null);
  const chosen = row ?? (open.length === 1 ? (open[0] as ListRow) : null);
  const { answer, busy, take } = useQueue(async (scanned) => {
    const what = await read('desk.scan', { query: { code: scanned } });
    if (what.kind === 'bin') {
      if (!chosen) return { tone: 'look', text: 'Scan the goods first, then the bin.' };
      const done = await send('stock.quickAdd', { body: { row: chosen.id, bin: what.address, qty, labels, device: 'handheld' } });
      setLast((was) => [
        {
          key: crypto.randomUUID(),
          at: new Date().toISOString(),
          text: `${done.code}: ${done.qty} in ${done.bin}${done.labels > 0 ? `, ${done.labels} labels` : ''}`,
        },
        ...was,
      ]);
      setCode('');
      setRow(null);
      setQty('1');
      return { tone: 'right', text: `${done.code} is stocked: ${done.qty} in ${done.bin}.` };
    }
    if (what.kind === 'item') return { tone: 'look', text: `${what.code} is stocked already. Scan it under Move goods or Put away.` };
    const list = await read('items.search', { query: { q: scanned, over: 'lists' } });
    const free = list.listRows.filter((r) => r.item === null);
    setCode(scanned);
    setRow(free.length === 1 ? (free[0] as ListRow) : null);
    setQty('1');
    if (free.length === 0) return { tone: 'wrong', text: `“${scanned}” is on no supplier’s list. The office makes the item.` };
    return free.length === 1
      ? { tone: 'right', text: 'Key how many, then scan the bin.' }
      : { tone: 'look', text: `${free.length} articles fit. Choose one.` };
  }, setQty);
  return (
    <Screen
      title="New item by scan"
      sub={chosen ? chosen.supplier : 'scan goods that nobody stocked yet'}
      answer={answer}
      busy={busy}
      onScan={take}
      hint={chosen ? 'Scan the bin' : 'Scan the goods'}
      last={last}
    >
      {chosen ? (
        <section className="space-y-4">
          <p className="text-lg">
            <span className="code text-2xl">{chosen.partNo}</span> {chosen.description}
            <span className="block text-soft">
              {[
                chosen.cost !== null && `costs ${sayMoney(chosen.cost)}`,
                chosen.price && `sells at ${sayMoney(chosen.price)}`,
                chosen.packUnits !== '1' && `pack of ${chosen.packUnits}`,
              ]
                .filter(Boolean)
                .join(', ')}
            </span>
          </p>
          <NumberOf label="How many" value={qty} unit="each" />
          <div className="grid grid-cols-3 gap-2" role="group" aria-label="Labels">
            {(
              [
                ['one', 'one label'],
                ['all', 'one for each'],
                ['none', 'no label'],
              ] as const
            ).map(([v, label]) => (
              <Button
                key={v}
                tall
                look={labels === v ? 'plain' : 'quiet'}
                aria-pressed={labels === v}
                className={labels === v ? '!border-4' : ''}
                onClick={() => setLabels(v)}
              >
                {label}
              </Button>
            ))}
          </div>
          <p className="text-xl font-semibold">Then scan the bin.</p>
        </section>
      ) : open.length > 1 ? (
        <ul>
          {open.slice(0, 12).map((r) => (
            <li key={r.id}>
              <button
                type="button"
                onClick={() => setRow(r)}
                className="flex min-h-16 w-full items-center gap-3 border-b border-line text-left"
              >
                <span className="min-w-0 flex-1">
                  <span className="block truncate text-lg font-semibold">{r.description}</span>
                  <span className="block truncate text-soft">
                    {r.partNo}, {r.supplier}
                  </span>
                </span>
                <span className="code text-xl">{sayMoney(r.price)}</span>
              </button>
            </li>
          ))}
        </ul>
      ) : (
        <Empty title="Scan the goods.">
          If they are on a supplier’s price list, only the quantity and the bin are left to give. Words work too.
        </Empty>
      )}
    </Screen>
  );
}
