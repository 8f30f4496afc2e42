import { useEffect } from 'react';
import { aisleBox, bayCell } from '#core/places';
import type { Round } from '#contract/picking';
import type { ReplyOf, Routes } from '#contract';
import { keepAs, keptAs, useRead } from '#web/base';

type RoundWay = ReplyOf<Routes['picking.map']>;
type Standing = 'done' | 'trouble' | 'next' | 'open';
// In cells of the plan.
const KEPT = 'way';
const LEAST_VIEW = 24;
const VIEW_MARGIN = 6;
const NAMES: Readonly<Record<Standing, string>> = { done: 'done', trouble: 'trouble', next: 'next', open: 'to come' };

/** A stop as a map of the way shows it. */
export type MapStop = { readonly bin: number; readonly address: string; readonly standing: Exclude<Standing, 'next'> };

/** The way of a round as the desk has it. */
export function RoundMap({ round }: { round: Round }) {
  const stops = round.stopList.map(({ bin, address, picks }): MapStop => {
    const isDone = picks.every((p) => p.picked === p.qty);
    return { bin, address, standing: picks.some((p) => p.trouble !== null) ? 'trouble' : isDone ? 'done' : 'open' };
  });
  return <WayMap id={round.id} number={round.number} stops={stops} />;
}

/** The way of a round drawn on its floor: the path from the cart to the bench, and its stops by their number, told apart by shape as well
 *  as by colour. Nothing is drawn where the plan knows none of them. `near`: only from the stop before to the next one, for a small
 *  screen. */
export function WayMap({ id, number, stops, near = false }: { id: number; number: string; stops: readonly MapStop[]; near?: boolean }) {
  const map = useRoundWay(id, near);
  if (!map || map.stops.length === 0) return null;
  const marks = marksOf(stops, map);
  const { plan } = map;
  const view = near ? aroundNext(stops, map) : { x: -1, y: -1, width: plan.width + 2, height: plan.height + 2 };
  // Everything is in cells; a mark has to be read from a chair, so it grows with the floor.
  const size = near ? view.width / 18 : Math.max(1.1, plan.width / 42);
  return (
    <figure className="mb-3">
      <svg
        role="img"
        aria-label={`The way of ${number}: ${map.stops.length} stops, then the bench`}
        viewBox={`${view.x} ${view.y} ${view.width} ${view.height}`}
        className={`w-full border-2 border-line bg-sheet ${near ? '' : 'max-h-[34vh]'}`}
      >
        {plan.aisles.map((aisle) => {
          return (
            <g key={aisle.key}>
              {aisle.bays.map((bay, n) => {
                const cell = bayCell(aisle, n);
                return <rect key={bay} x={cell.x} y={cell.y} width={1} height={1} className="fill-shade" />;
              })}
            </g>
          );
        })}
        {plan.things.map((t, n) => (
          <rect key={n} x={t.x} y={t.y} width={t.w} height={t.h} className={t.kind === 'door' ? 'fill-line' : 'fill-ink/60'} />
        ))}
        {map.parts.map((part, n) => (
          <g key={n}>
            <Way part={part} width={size * 0.55} className="stroke-ink" />
            <Way part={part} width={size * 0.28} className="stroke-next" />
          </g>
        ))}
        {plan.aisles.map((aisle) => {
          const box = aisleBox(aisle);
          return (
            <text
              key={aisle.key}
              x={box.x + box.w / 2}
              y={box.y - 1.4}
              textAnchor="middle"
              fontSize={Math.min(1.5, size)}
              paintOrder="stroke"
              strokeWidth={0.5}
              className="code fill-soft stroke-sheet"
            >
              {aisle.name}
            </text>
          );
        })}
        {map.bench && (
          <rect x={map.bench.x + 0.5 - size / 2} y={map.bench.y + 0.5 - size / 2} width={size} height={size} className="fill-ink">
            <title>The bench</title>
          </rect>
        )}
        {marks.map((m) => (
          <Mark key={m.label} mark={m} size={size} />
        ))}
      </svg>
      {!near && <Legend />}
    </figure>
  );
}

// The way of the round in hand is drawn without a connection too: a handheld keeps the last one that it read.
function useRoundWay(id: number, isKept: boolean): RoundWay | null {
  // Without a connection the way of the round before would stand here as this one's.
  const { data } = useRead('picking.map', { params: { id } }, { keep: !isKept });
  useEffect(() => {
    if (isKept && data) keepAs(KEPT, { id, way: data });
  }, [data, id, isKept]);
  if (data) return data;
  const kept = isKept ? (keptAs(KEPT) as { id: number; way: RoundWay } | null) : null;
  return kept?.id === id ? kept.way : null;
}

function Legend() {
  return (
    <figcaption className="flex flex-wrap gap-x-4 text-sm text-soft">
      <span>○ to come</span>
      <span>◎ next</span>
      <span>● done</span>
      <span>◆ trouble</span>
      <span>■ bench</span>
    </figcaption>
  );
}

type MarkAt = { readonly x: number; readonly y: number; readonly label: string; readonly standing: Standing; readonly says: string };

// Stops at one cell, bins above each other, are one mark: it says the first and the last of their numbers.
function marksOf(stops: readonly MapStop[], map: RoundWay): MarkAt[] {
  const cellOf = new Map(map.stops.map((s) => [s.bin, s]));
  const nextBin = stops.find((s) => s.standing === 'open')?.bin;
  const byCell = new Map<string, { x: number; y: number; numbers: number[]; standings: Standing[]; addresses: string[] }>();
  for (const [n, stop] of stops.entries()) {
    const cell = cellOf.get(stop.bin);
    if (!cell) continue;
    const key = `${cell.x} ${cell.y}`;
    const at = byCell.get(key) ?? { x: cell.x, y: cell.y, numbers: [], standings: [], addresses: [] };
    at.numbers.push(n + 1);
    at.standings.push(stop.bin === nextBin ? 'next' : stop.standing);
    at.addresses.push(stop.address);
    byCell.set(key, at);
  }
  return [...byCell.values()].map(({ x, y, numbers, standings, addresses }) => {
    const standing = (['next', 'trouble', 'open', 'done'] as const).find((s) => standings.includes(s)) ?? 'open';
    const label = numbers.length === 1 ? String(numbers[0]) : `${numbers[0]}–${numbers.at(-1)}`;
    return { x: x + 0.5, y: y + 0.5, label, standing, says: `${label}: ${addresses.join(', ')}, ${NAMES[standing]}` };
  });
}

// From where one stands to where one goes, and enough of the floor around it to see which rack that is. Twice as wide as high.
function aroundNext(stops: readonly MapStop[], map: RoundWay): { x: number; y: number; width: number; height: number } {
  const cellOf = new Map(map.stops.map((s) => [s.bin, s]));
  const next = stops.findIndex((s) => s.standing === 'open');
  const begin = map.parts[0]?.[0];
  const ends = [next <= 0 ? begin : cellOf.get(stops[next - 1]?.bin ?? 0), next < 0 ? map.bench : cellOf.get(stops[next]?.bin ?? 0)];
  const cells = ends.flatMap((c) => c ?? []);
  const [xs, ys] = [cells.map((c) => c.x), cells.map((c) => c.y)];
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const width = Math.max(LEAST_VIEW, right - left + VIEW_MARGIN, 2 * (bottom - top + VIEW_MARGIN));
  return { x: (left + right + 1 - width) / 2, y: (top + bottom + 1 - width / 2) / 2, width, height: width / 2 };
}

function Mark({ mark: { x, y, label, standing, says }, size }: { mark: MarkAt; size: number }) {
  const r = size * 0.75;
  const shape = {
    done: <circle cx={x} cy={y} r={r} className="fill-ink" />,
    open: <circle cx={x} cy={y} r={r} className="fill-sheet stroke-ink" strokeWidth={size * 0.14} />,
    next: (
      <>
        <circle cx={x} cy={y} r={r * 1.35} className="fill-sheet stroke-ink" strokeWidth={size * 0.14} />
        <circle cx={x} cy={y} r={r} className="fill-next stroke-ink" strokeWidth={size * 0.14} />
      </>
    ),
    trouble: <rect x={x - r} y={y - r} width={2 * r} height={2 * r} transform={`rotate(45 ${x} ${y})`} className="fill-wrong" />,
  }[standing];
  return (
    <g>
      <title>{says}</title>
      {shape}
      <text
        x={x}
        y={y}
        dy="0.35em"
        textAnchor="middle"
        fontSize={size * (label.length > 2 ? 0.62 : 0.9)}
        className={`code ${standing === 'done' || standing === 'trouble' ? 'fill-sheet' : 'fill-ink'}`}
      >
        {label}
      </text>
    </g>
  );
}

function Way({ part, width, className }: { part: RoundWay['parts'][number]; width: number; className: string }) {
  return (
    <polyline
      points={part.map((c) => `${c.x + 0.5},${c.y + 0.5}`).join(' ')}
      fill="none"
      strokeWidth={width}
      strokeLinejoin="round"
      strokeLinecap="round"
      className={className}
    />
  );
}
