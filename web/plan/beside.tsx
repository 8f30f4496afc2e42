import { useMemo } from 'react';
import { indexStops, walkGrid, walkingDistances, type Cell, type FloorPlan } from '#core/places';
import { Plate, sayNumber } from '#web/base';
import { sayValue, type BayView, type Colouring, type legendOf, type PlanBinView } from './plan-view.ts';

const MOST_LISTED = 200;

/** The key to the colours, which counts: each line lists its bins. */
export function Legend({ legend, open, onOpen }: { legend: ReturnType<typeof legendOf>; open: string; onOpen: (says: string) => void }) {
  return (
    <ul aria-label="Key to the colours" className="mb-3 grid grid-cols-2 gap-x-2">
      {legend.map((l) => (
        <li key={l.says}>
          <button
            type="button"
            aria-pressed={open === l.says}
            disabled={l.bins.length === 0}
            onClick={() => onOpen(open === l.says ? '' : l.says)}
            className={`flex w-full items-center gap-2 rounded border px-1 py-0.5 text-left text-sm ${
              open === l.says ? 'border-ink bg-shade font-bold' : 'border-transparent enabled:hover:bg-shade'
            }`}
          >
            <span aria-hidden className="size-4 shrink-0 border border-ink/60" style={{ background: l.colour }} />
            <span className="min-w-0 flex-1 truncate">{l.says}</span>
            <span className="code text-base">{sayNumber(l.bins.length)}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}

function BinLines({ bins, colouring }: { bins: readonly PlanBinView[]; colouring: Colouring }) {
  return (
    <>
      <ul>
        {bins.slice(0, MOST_LISTED).map((b) => (
          <li key={b.id} className="flex items-center justify-between border-b border-line py-1">
            <Plate address={b.address} to={`/bins/${b.id}`} />
            <span className="text-sm">{sayValue(b, colouring)}</span>
          </li>
        ))}
      </ul>
      {bins.length > MOST_LISTED && <p className="text-soft">and {bins.length - MOST_LISTED} more, lit on the plan</p>}
    </>
  );
}

/** The bins of one colour. */
export function Listed({ says, bins, colouring }: { says: string; bins: readonly PlanBinView[]; colouring: Colouring }) {
  return (
    <section aria-label={says}>
      <h2 className="border-b-2 border-ink font-bold">
        {says} <span className="code text-lg">{sayNumber(bins.length)}</span>
      </h2>
      <BinLines bins={bins} colouring={colouring} />
    </section>
  );
}

/** The floor as a whole, where nothing on it is pointed at: its zones, each with its bins and how many of them are empty. */
export function FloorStory({ plan, zones, bays }: { plan: FloorPlan; zones: ReadonlyMap<number, string>; bays: readonly BayView[] }) {
  const lines = useMemo(() => {
    const sums = new Map<number, { bins: number; empty: number }>();
    for (const bay of bays)
      for (const bin of bay.bins) {
        const sum = sums.get(bay.zone) ?? { bins: 0, empty: 0 };
        sums.set(bay.zone, { bins: sum.bins + 1, empty: sum.empty + (bin.items === 0 ? 1 : 0) });
      }
    return [...sums].map(([zone, sum]) => ({ zone, name: zones.get(zone) ?? '', ...sum }));
  }, [bays, zones]);
  return (
    <section aria-label="The floor">
      <table className="w-full text-sm">
        <thead>
          <tr className="border-b-2 border-ink text-left">
            <th className="font-bold">Zone</th>
            <th className="text-right font-bold">Bins</th>
            <th className="text-right font-bold">Empty</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((l) => (
            <tr key={l.zone} className="border-b border-line">
              <td className="py-1">{l.name}</td>
              <td className="code text-right text-base">{sayNumber(l.bins)}</td>
              <td className="code text-right text-base">{sayNumber(l.empty)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-sm text-soft">
        {Math.round(plan.width * plan.cell)} by {Math.round(plan.height * plan.cell)} m. Point at a bay for its bins; drag to move about,
        turn the wheel to come closer.
      </p>
    </section>
  );
}

/** The bay that is pointed at, or walked to. */
export function BayFacts({ bay, colouring, plan }: { bay: BayView; colouring: Colouring; plan: FloorPlan }) {
  const metres = useMemo(() => metresFromBench(plan, bay), [plan, bay]);
  return (
    <div>
      <h2 className="code text-3xl">{bay.aisle === '' ? bay.bay : `${bay.aisle} · ${bay.bay}`}</h2>
      {metres !== null && (
        <p className="mb-2 text-soft">
          {metres === Infinity ? 'cannot be reached from the bench' : `${metres.toFixed(0)} m from the bench`}
        </p>
      )}
      <BinLines bins={bay.bins.toReversed()} colouring={colouring} />
    </div>
  );
}

// From the free cell nearest to the bench's front edge to the lane beside the bay.
function metresFromBench(plan: FloorPlan, bay: BayView): number | null {
  const bench = plan.things.find((t) => t.kind === 'bench');
  const [bin] = bay.bins;
  const to = bin ? indexStops(plan)({ zone: bay.zone, address: bin.address }) : null;
  if (!bench || !to) return null;
  const from: Cell = { x: bench.x, y: Math.min(plan.height - 1, bench.y + bench.h) };
  return walkingDistances(walkGrid(plan), [from, to])[0]?.[1] ?? null;
}
