import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { gridOf, MARGIN_MM, type Arrangement, type CellBox, type LabelPart, type Paper } from '#core/labels';
import { byKey, inTheWay } from './arranging.ts';

const MOST_WIDE = 640; // pixels
const MOST_HIGH = 520;
/** Pixels for a millimetre of a label that is being looked at. */
export const scaleOf = ({ widthMm, heightMm }: Paper): number => Math.min(MOST_WIDE / widthMm, MOST_HIGH / heightMm);

type Hold = { readonly key: string; readonly isSize: boolean; readonly from: CellBox; readonly x: number; readonly y: number };

const placeOf = ({ column, row, across, down }: CellBox, of?: { columns: number; rows: number }): string =>
  `column ${column + 1}${of ? ` of ${of.columns}` : ''}, row ${row + 1}${of ? ` of ${of.rows}` : ''}, ${across} wide, ${down} high`;

/** A label on its grid: every part is a box that is dragged or moved with the arrow keys; at its lower right corner, or with Shift, it
 *  grows. Nothing can be put over another part or beside the label: what is in the way is said.
 *  Shape:  `onChange` is called once for each move, where the part was let go. `missed`: names of parts without room in their boxes. */
export function ArrangeLabel({
  paper,
  parts,
  boxes,
  svg,
  drawn,
  missed,
  onChange,
}: {
  paper: Paper;
  parts: readonly LabelPart[];
  boxes: Arrangement['boxes'];
  svg: string | null;
  drawn: readonly string[];
  missed: readonly string[];
  onChange: (boxes: Arrangement['boxes']) => void;
}) {
  const grid = gridOf(paper);
  const plane = useRef<HTMLDivElement>(null);
  const [hold, setHold] = useState<Hold | null>(null);
  const [at, setAt] = useState<CellBox | null>(null);
  const [chosen, setChosen] = useState<string | null>(null);
  const [way, setWay] = useState<string | null>(null);
  const scale = scaleOf(paper);
  const cellWidth = ((paper.widthMm - 2 * MARGIN_MM) * scale) / grid.columns;
  const cellHeight = ((paper.heightMm - 2 * MARGIN_MM) * scale) / grid.rows;

  const tryAt = (key: string, box: CellBox): boolean => {
    const other = inTheWay(parts, boxes, key, box, paper);
    setWay(other);
    return other === null;
  };
  const onDown = (key: string, isSize: boolean) => (e: PointerEvent) => {
    const from = boxes[key];
    if (!from || e.button !== 0) return;
    e.preventDefault();
    e.stopPropagation();
    (e.currentTarget.closest('[data-part]') as HTMLElement | null)?.focus();
    e.currentTarget.setPointerCapture(e.pointerId);
    setChosen(key);
    setHold({ key, isSize, from, x: e.clientX, y: e.clientY });
    setAt(from);
  };
  const onMove = (e: PointerEvent): void => {
    if (!hold) return;
    // The page may be drawn smaller than it is said, on a narrow screen.
    const shrunk = (plane.current?.clientWidth ?? paper.widthMm * scale) / (paper.widthMm * scale);
    const [x, y] = [Math.round((e.clientX - hold.x) / (cellWidth * shrunk)), Math.round((e.clientY - hold.y) / (cellHeight * shrunk))];
    const { from, isSize } = hold;
    const to = isSize ? { ...from, across: from.across + x, down: from.down + y } : { ...from, column: from.column + x, row: from.row + y };
    if (tryAt(hold.key, to)) setAt(to);
  };
  const onUp = (): void => {
    if (hold && at && JSON.stringify(at) !== JSON.stringify(hold.from)) onChange({ ...boxes, [hold.key]: at });
    setHold(null);
    setAt(null);
  };
  const onKey = (key: string) => (e: KeyboardEvent) => {
    const box = boxes[key];
    const to = box && byKey(box, e);
    if (!to) return;
    e.preventDefault();
    if (tryAt(key, to)) onChange({ ...boxes, [key]: to });
  };
  const percent = (cells: number, of: number, mm: number): string => `${((MARGIN_MM + (cells * (mm - 2 * MARGIN_MM)) / of) / mm) * 100}%`;
  const size = (cells: number, of: number, mm: number): string => `${((cells * (mm - 2 * MARGIN_MM)) / of / mm) * 100}%`;
  const shown = chosen === null ? null : (boxes[chosen] ?? null);
  return (
    <div>
      <div
        ref={plane}
        role="group"
        aria-label="The label on its grid"
        className="relative max-w-full touch-none border border-ink bg-white select-none"
        style={{ width: paper.widthMm * scale, aspectRatio: `${paper.widthMm} / ${paper.heightMm}` }}
      >
        {svg && <img alt="" src={`data:image/svg+xml;utf8,${encodeURIComponent(svg)}`} className="absolute inset-0 h-full w-full" />}
        {parts.map(({ key, says }) => {
          const box = hold?.key === key && at ? at : boxes[key];
          if (!box) return null;
          const isChosen = chosen === key;
          const isMissed = missed.includes(says);
          return (
            <div
              key={key}
              data-part={key}
              role="button"
              tabIndex={0}
              aria-label={`${says}: ${placeOf(box)}${isMissed ? ', no room' : ''}`}
              onFocus={() => (setChosen(key), setWay(null))}
              onKeyDown={onKey(key)}
              onPointerDown={onDown(key, false)}
              onPointerMove={onMove}
              onPointerUp={onUp}
              onPointerCancel={() => (setHold(null), setAt(null))}
              className={`group absolute cursor-move border ${
                isMissed
                  ? 'border-2 border-[#7d1650] bg-[#7d1650]/15'
                  : isChosen
                    ? 'border-2 border-[#1c1a17] bg-[#1c1a17]/5'
                    : 'border-dashed border-[#1c1a17]/50'
              }`}
              style={{
                left: percent(box.column, grid.columns, paper.widthMm),
                top: percent(box.row, grid.rows, paper.heightMm),
                width: size(box.across, grid.columns, paper.widthMm),
                height: size(box.down, grid.rows, paper.heightMm),
              }}
            >
              {!drawn.includes(key) && (
                <span className="absolute inset-0 flex items-center justify-center overflow-hidden text-sm text-[#57514a]">{says}</span>
              )}
              <span
                onPointerDown={onDown(key, true)}
                className={`absolute -right-px -bottom-px size-4 cursor-nwse-resize border-t-2 border-l-2 border-white bg-[#1c1a17] ${
                  isChosen ? '' : 'opacity-0 group-hover:opacity-100'
                }`}
              />
            </div>
          );
        })}
      </div>
      <p role="status" className={`mt-1 min-h-6 ${way === null ? 'text-soft' : 'font-semibold text-wrong'}`}>
        {way !== null
          ? `There is ${way}.`
          : shown
            ? `${parts.find((p) => p.key === chosen)?.says ?? ''}: ${placeOf(shown, grid)}. Arrow keys move it, with Shift they size it.`
            : 'Drag a part, or its lower right corner. A cell is four millimetres.'}
      </p>
    </div>
  );
}
