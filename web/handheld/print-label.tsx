import { useEffect, useRef, useState } from 'react';
import { Button, keepAs, keptAs, Unreached, useSend } from '#web/base';

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
 *  Shape:  `each`: the goods of the last scan under a key of that scan; where this hand chose so, each new one prints its labels by
 *          itself. */
export function PrintLabel({ goods, each }: { goods: LabelledGoods; each?: string }) {
  const print = useSend('labels.print', { quiet: true });
  const says =
    print.data?.printers.length === 0 ? 'It waits: this site has no printer.' : `It comes out of ${print.data?.printers[0] ?? ''}.`;
  return (
    <div className="space-y-1">
      <div className="flex gap-2">
        <Button tall look="quiet" className="flex-1" disabled={print.isPending} onClick={() => print.mutate(bodyOf(goods, 1))}>
          {goods.serial ? `Print a label of ${goods.serial}` : 'Print its label'}
        </Button>
        {goods.copies > 1 && !goods.serial && (
          <Button tall look="quiet" disabled={print.isPending} onClick={() => print.mutate(bodyOf(goods, goods.copies))}>
            {Math.min(MOST, goods.copies)} labels
          </Button>
        )}
      </div>
      {each !== undefined && <WithEachScan goods={goods} scan={each} onPrint={(copies) => print.mutate(bodyOf(goods, copies))} />}
      {print.isSuccess && (
        <p role="status" className="text-lg">
          {says}
        </p>
      )}
      {print.error && (
        <p role="status" className="text-lg font-semibold text-wrong">
          {print.error instanceof Unreached ? 'There is no connection here: print it when there is one.' : print.error.message}
        </p>
      )}
    </div>
  );
}

const KEPT = 'labels-with-each-scan';

// Chosen once on a device and kept there: whoever labels all that comes in does so all day.
function WithEachScan({ goods, scan, onPrint }: { goods: LabelledGoods; scan: string; onPrint: (copies: number) => void }) {
  const [isOn, setIsOn] = useState(() => keptAs(KEPT) === true);
  const seen = useRef(scan);
  useEffect(() => {
    if (seen.current === scan) return;
    seen.current = scan;
    if (isOn) onPrint(goods.copies);
  }, [scan, isOn, onPrint, goods.copies]);
  return (
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
  );
}
