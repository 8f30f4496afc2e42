import { useEffect, useState } from 'react';
import { Button, keepAs, keptAs, send, Unreached, useSend } from '#web/base';
import { theFloor } from '#web/hands';
import { newScans, type Scan } from './each-scan.ts';

/** Goods that want a label: an item, its lot or serial where it has one, the bin where it lies, and how many of them there are. */
export type LabelledGoods = {
  readonly item: number;
  readonly lot?: string | null;
  readonly expires?: string | null;
  readonly serial?: string | null;
  readonly bin?: number | null;
  readonly copies: number;
};

const MOST = 999;
const bodyOf = ({ item, lot, expires, serial, bin }: LabelledGoods, copies: number) => ({
  body: {
    ...{ kind: 'item' as const, item, copies: Math.min(MOST, Math.max(1, copies)) },
    ...(lot ? { lot } : {}),
    ...(expires ? { expires } : {}),
    ...(serial ? { serial } : {}),
    ...(bin ? { bin } : {}),
  },
});

/** Labels for what is in the hand (D5): one, or as many as there are; it says where they come out.
 *  Shape:  `all`: how many of them there are where that is more than what was scanned last. */
export function PrintLabel({ goods, all = goods.copies }: { goods: LabelledGoods; all?: number }) {
  const print = useSend('labels.print', { quiet: true });
  return (
    <div className="space-y-1">
      <div className="flex gap-2">
        <Button tall look="quiet" className="flex-1" disabled={print.isPending} onClick={() => print.mutate(bodyOf(goods, 1))}>
          {goods.serial ? `Print a label of ${goods.serial}` : 'Print its label'}
        </Button>
        {all > 1 && !goods.serial && (
          <Button tall look="quiet" disabled={print.isPending} onClick={() => print.mutate(bodyOf(goods, all))}>
            {Math.min(MOST, all)} labels
          </Button>
        )}
      </div>
      {print.data && <Said right={cameOutAt(print.data.printers)} />}
      {print.error && <Said wrong={print.error.message} />}
    </div>
  );
}

const cameOutAt = (printers: readonly string[]): string =>
  printers.length === 0 ? 'It waits: this site has no printer.' : `It comes out of ${printers.join(' and ')}.`;

const Said = ({ right, wrong }: { right?: string; wrong?: string }) => (
  <p role="status" className={`text-lg ${wrong === undefined ? '' : 'font-semibold text-wrong'}`}>
    {wrong ?? right}
  </p>
);

const KEPT = 'labels-with-each-scan';

/** Labels with each scan (C16). Chosen once on a device and kept there: whoever labels all that comes in does so all day.
 *  Shape:  every scan is a command of its own: two of the same goods may follow each other as fast as a hand can, and neither is taken for
 *          the second click of a double one. */
export function LabelsWithEachScan({ scans }: { scans: readonly (Scan & LabelledGoods)[] }) {
  const [isOn, setIsOn] = useState(() => keptAs(KEPT) === true);
  const [unprinted, setUnprinted] = useState<string | null>(null);
  const floor = theFloor();
  const [seen] = useState(() => new Set(scans.map((s) => s.key)));
  useEffect(() => {
    for (const scan of newScans(scans, seen, (key) => floor.doneHere(key)?.kind === 'receive.enter')) {
      seen.add(scan.key);
      if (!isOn) continue;
      send('labels.print', bodyOf(scan, scan.copies)).then(
        () => setUnprinted(null),
        (error: unknown) =>
          setUnprinted(error instanceof Unreached ? 'Without a connection no label came of this scan.' : (error as Error).message),
      );
    }
  }, [scans, isOn, floor, seen]);
  return (
    <>
      <label className="flex min-h-14 items-center gap-3 text-lg">
        <input
          type="checkbox"
          className="size-7 accent-ink"
          checked={isOn}
          onChange={(e) => {
            setIsOn(e.target.checked);
            keepAs(KEPT, e.target.checked);
          }}
        />
        Labels with each scan
      </label>
      {unprinted !== null && <Said wrong={unprinted} />}
    </>
  );
}
