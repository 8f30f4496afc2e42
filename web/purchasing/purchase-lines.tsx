import { useState } from 'react';
import { toast } from 'sonner';
import type { Choice } from '#contract/desk';
import { Button, houseCurrency, ItemName, read, sound, useScanner } from '#web/base';
import { ChoiceField } from '#web/forms';
import { addPurchaseLine, purchaseLineFault, purchaseTotal, type PurchaseDraftLine } from './draft.ts';

/** Reads what is to be known of an item that is ordered: how it comes, and what the supplier calls it and takes for it. */
async function draftLineOf(id: number, supplier: number | null, qty: string): Promise<PurchaseDraftLine> {
  const item = await read('items.item', { params: { id } });
  const sold = item.suppliers.find((s) => s.id === supplier) ?? (supplier === null ? item.suppliers[0] : undefined);
  return {
    key: `item-${id}`,
    line: null,
    item: id,
    code: item.code,
    description: item.description,
    unit: item.unit,
    partNo: sold?.partNo ?? '',
    received: '0',
    packs: item.packs.map((p) => ({ name: p.name, units: p.units })),
    qty,
    cost: sold?.cost ?? item.cost ?? '',
  };
}

/** The lines of a purchase order as fields: scan or name goods to add them; a quantity keyed, or a pack more with one press. */
export function PurchaseLines({
  lines,
  supplier,
  onChange,
}: {
  lines: readonly PurchaseDraftLine[];
  supplier: number | null;
  onChange: (by: (was: readonly PurchaseDraftLine[]) => readonly PurchaseDraftLine[]) => void;
}) {
  const [chosen, setChosen] = useState<Choice | null>(null);
  const add = (item: number, qty: string): void => {
    draftLineOf(item, supplier, qty).then(
      (line) => onChange((was) => addPurchaseLine(was, line)),
      (error: Error) => toast.error(error.message),
    );
  };
  useScanner((code) => {
    read('desk.scan', { query: { code } }).then(
      (meant) => {
        sound(meant.kind === 'item' ? 'right' : 'look');
        if (meant.kind === 'item') add(meant.item, meant.packUnits);
        else toast(meant.kind === 'unknown' ? `Nothing here is known by “${meant.text}”.` : 'That is no goods. Scan what is ordered.');
      },
      (error: Error) => {
        sound('wrong');
        toast.error(error.message);
      },
    );
  });
  const set = (key: string, part: Partial<PurchaseDraftLine>): void =>
    onChange((was) => was.map((l) => (l.key === key ? { ...l, ...part } : l)));
  return (
    <>
      <table className="w-full">
        <thead className="border-b-2 border-ink text-left text-sm text-soft">
          <tr>
            <th className="font-normal">Item</th>
            <th className="font-normal">Their number</th>
            <th className="font-normal">Quantity</th>
            <th className="font-normal">Cost of one</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {lines.map((l) => {
            const fault = purchaseLineFault(l);
            const field = 'min-h-9 rounded border-2 bg-sheet px-2 text-right';
            return (
              <tr key={l.key} className="border-b border-line align-top">
                <td className="py-1.5">
                  <ItemName item={l.item} code={l.code} description={l.description} wraps />
                  {fault && (
                    <span role="alert" className="block text-sm font-semibold text-wrong">
                      {fault}
                    </span>
                  )}
                </td>
                <td className="py-2.5">{l.partNo}</td>
                <td className="py-1.5 whitespace-nowrap">
                  <input
                    aria-label={`How many ${l.code}`}
                    aria-invalid={fault !== null}
                    value={l.qty}
                    inputMode="decimal"
                    className={`${field} w-24 ${fault ? 'border-wrong' : 'border-ink/60'}`}
                    onChange={(e) => set(l.key, { qty: e.target.value })}
                  />{' '}
                  {l.unit}
                  {l.packs
                    .filter((p) => p.units !== '1')
                    .slice(0, 2)
                    .map((p) => (
                      <Button
                        key={p.name}
                        look="quiet"
                        title={`${p.units} more`}
                        onClick={() => onChange((was) => addPurchaseLine(was, { ...l, qty: p.units }))}
                      >
                        + {p.name} of {p.units}
                      </Button>
                    ))}
                </td>
                <td className="py-1.5">
                  <input
                    aria-label={`Cost of one ${l.code}`}
                    value={l.cost}
                    inputMode="decimal"
                    className={`${field} w-24 border-ink/60`}
                    onChange={(e) => set(l.key, { cost: e.target.value })}
                  />
                </td>
                <td className="py-1.5 text-right">
                  {l.received === '0' && (
                    <Button look="quiet" aria-label={`Remove ${l.code}`} onClick={() => onChange((was) => was.filter((x) => x !== l))}>
                      Remove
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
        {lines.length > 0 && (
          <tfoot>
            <tr>
              <td colSpan={3} className="py-2 font-bold">
                Together
              </td>
              <td className="py-2 text-right font-bold">{purchaseTotal(lines, houseCurrency())}</td>
              <td />
            </tr>
          </tfoot>
        )}
      </table>
      <div className="mt-3 max-w-md">
        <ChoiceField
          kind="item"
          label="Add an item: code, words or scan"
          value={chosen}
          onChange={(choice) => {
            setChosen(null);
            if (choice) add(choice.id, '1');
          }}
        />
      </div>
    </>
  );
}
