import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { checkPlan, placesSentence, type FloorPlan } from '#core/places';
import { Button, Trouble, useFilters, useRead, useSend, SearchBox, Unsaved } from '#web/base';
import { Select } from '#web/forms';
import { PlacesFrame, useMySite } from '#web/places';
import { Arranging, movePiece, turnPiece } from './arranging.tsx';
import { BayFacts, FloorStory, Legend, Listed } from './beside.tsx';
import { FloorCanvas } from './floor-canvas.ts';
import { bayBeside, bayViews, legendOf, type BayView, type Colouring } from './plan-view.ts';

const COLOURINGS = [
  ['fill', 'how full'],
  ['touches', 'touches in 30 days'],
  ['counted', 'days since the last count'],
] as const;
const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

const NAME = 'Plan of the floor. Arrow keys walk from bay to bay, Enter opens the bin, plus and minus zoom, 0 shows the whole floor.';

/** The plan of the floor (A10): drawn from the addresses, arranged by the lead; coloured, searched, walked by mouse and by keys. */
export function Plan() {
  const { of, set } = useFilters();
  const go = useNavigate();
  const { me } = useMySite();
  const { data: kept, error } = useRead('places.plan', {});
  const { data: measures } = useRead('places.planMeasures', {});
  const [draft, setDraft] = useState<readonly FloorPlan[] | null>(null);
  const [chosen, setChosen] = useState<string | null>(null);
  const [hover, setHover] = useState<BayView | null>(null);
  const [focus, setFocus] = useState<BayView | null>(null);
  const plan = draft?.at(-1) ?? kept?.layout;
  const colouring = (of('colour') || 'fill') as Colouring;
  const wanted = useDeferredValue(of('q')).trim();
  const { data: where } = useRead('stock.where', { query: { q: wanted } }, { enabled: wanted.length > 1, keep: true });
  const bays = useMemo(() => (plan && measures ? bayViews(plan, measures) : []), [plan, measures]);
  const zones = useMemo(() => new Map(kept?.zones.map((z) => [z.id, z.name])), [kept]);
  const legend = useMemo(() => legendOf(colouring, bays), [colouring, bays]);
  const listed = legend.find((l) => l.says === of('only'));
  const lit = useMemo(() => {
    if (wanted === '' && listed) {
      const ids = new Set(listed.bins.map((b) => b.id));
      return new Set(bays.filter((b) => b.bins.some((bin) => ids.has(bin.id))));
    }
    const holding = new Set(wanted.length > 1 ? where?.bins : []);
    const begins = wanted.toUpperCase();
    return new Set(wanted === '' ? [] : bays.filter((b) => b.bins.some((bin) => holding.has(bin.id) || bin.address.startsWith(begins))));
  }, [bays, wanted, where, listed]);
  const save = useSend('places.savePlan', {
    onDone: () => {
      setDraft(null);
      setChosen(null);
      toast.success('The plan is kept. Distances follow it from now on.');
    },
  });
  const edit = useCallback(
    (change: (plan: FloorPlan) => FloorPlan) => setDraft((was) => (was ? [...was.slice(-200), change(was.at(-1) as FloorPlan)] : was)),
    [],
  );
  const takeBack = (): void => setDraft((was) => (was && was.length > 1 ? was.slice(0, -1) : was));
  const { container, floor } = useFloor(plan ? { plan, zones, bays, colouring, lit, focus, editing: draft !== null, chosen } : null, {
    onHover: setHover,
    onOpen: (bay) => {
      setFocus(bay);
      if (bay.bins.length === 1 && bay.bins[0]) void go(`/bins/${bay.bins[0].id}`);
    },
    onChoose: setChosen,
    onMove: (key, dx, dy) => edit((p) => movePiece(p, key, dx, dy)),
  });
  useEffect(() => {
    const [first] = lit;
    if (first && wanted !== '') floor.current?.reveal(first);
  }, [lit, wanted, floor]);
  const onKey = (event: React.KeyboardEvent): void => {
    const arrow = ARROWS[event.key];
    if (draft && chosen && arrow) edit((p) => movePiece(p, chosen, ...arrow));
    else if (draft && chosen && event.key.toLowerCase() === 'r') edit((p) => turnPiece(p, chosen));
    else if (draft && event.key.toLowerCase() === 'z' && (event.ctrlKey || event.metaKey)) takeBack();
    else if (arrow && bays[0]) {
      const next = focus ? bayBeside(bays, focus, ...arrow) : bays[0];
      setFocus(next);
      floor.current?.reveal(next);
    } else if (event.key === '+') floor.current?.zoom(1.3);
    else if (event.key === '-') floor.current?.zoom(1 / 1.3);
    else if (event.key === '0') floor.current?.fit();
    else if (event.key === 'Enter' && focus?.bins[0]) void go(`/bins/${focus.bins[0].id}`);
    else return;
    event.preventDefault();
  };
  const isChanged = draft !== null && plan !== kept?.layout;
  const fault = draft && plan ? checkPlan(plan) : null;
  const shown = hover ?? focus;
  return (
    <PlacesFrame
      act={
        me?.role === 'lead' &&
        kept &&
        (draft === null ? (
          <Button onClick={() => setDraft([kept.layout])}>Arrange the floor</Button>
        ) : (
          <>
            <Button disabled={draft.length < 2} onClick={takeBack}>
              Undo
            </Button>
            <Button onClick={() => (setDraft(null), setChosen(null))}>Cancel</Button>
            <Button
              look="next"
              disabled={fault !== null || !isChanged || save.isPending}
              onClick={() => save.mutate({ body: { revision: kept.revision, layout: draft.at(-1) as FloorPlan } })}
            >
              Save
            </Button>
          </>
        ))
      }
    >
      <Trouble error={error} />
      <Unsaved when={isChanged} what="The plan" />
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <SearchBox
          label="Light up bins"
          data-takes-code=""
          className="code w-56"
          placeholder="Bin or item, such as A-04"
          value={of('q')}
          onChange={(e) => set('q', e.target.value)}
        />
        {wanted && (
          <span className="text-soft">
            {lit.size} {lit.size === 1 ? 'bay' : 'bays'}
            {where &&
              where.items.length > 0 &&
              wanted.length > 1 &&
              `: ${where.items
                .slice(0, 2)
                .map((i) => i.code)
                .join(', ')}${where.items.length > 2 ? ' …' : ''}`}
          </span>
        )}
        <Select label="Colour by" hideLabel value={colouring} onChange={(v) => set('colour', v)} options={COLOURINGS} />
        <span className="ml-auto flex gap-1">
          <Button aria-label="Closer" onClick={() => floor.current?.zoom(1.3)}>
            +
          </Button>
          <Button aria-label="Farther" onClick={() => floor.current?.zoom(1 / 1.3)}>
            −
          </Button>
          <Button onClick={() => floor.current?.fit()}>Whole floor</Button>
        </span>
      </div>
      <div className="flex gap-4">
        {/* A picture that is walked by keys; what it shows of the bay that has the focus stands beside it in words. */}
        <div
          ref={container}
          role="application"
          aria-label={NAME}
          tabIndex={0}
          onKeyDown={onKey}
          className="h-[calc(100dvh-250px)] min-h-80 min-w-0 flex-1 cursor-grab overflow-hidden border-2 border-ink/70 bg-shade"
        />
        <aside aria-live="polite" className="max-h-[calc(100dvh-250px)] w-72 shrink-0 overflow-y-auto">
          {draft && plan ? (
            <Arranging
              plan={plan}
              zones={zones}
              chosen={chosen}
              fault={fault ? placesSentence(fault) : null}
              edit={edit}
              choose={setChosen}
            />
          ) : (
            plan &&
            measures && (
              <>
                <Legend legend={legend} open={listed?.says ?? ''} onOpen={(says) => set('only', says)} />
                {shown ? (
                  <BayFacts bay={shown} colouring={colouring} plan={plan} />
                ) : listed ? (
                  <Listed says={listed.says} bins={listed.bins} colouring={colouring} />
                ) : (
                  <FloorStory plan={plan} zones={zones} bays={bays} />
                )}
              </>
            )
          )}
        </aside>
      </div>
    </PlacesFrame>
  );
}

type FloorArgs = ConstructorParameters<typeof FloorCanvas>[1];

function useFloor(state: Parameters<FloorCanvas['show']>[0] | null, handlers: FloorArgs) {
  const container = useRef<HTMLDivElement>(null);
  const floor = useRef<FloorCanvas | null>(null);
  const latest = useRef(handlers);
  useEffect(() => {
    latest.current = handlers;
  });
  useEffect(() => {
    const box = container.current;
    if (!box) return;
    const made = new FloorCanvas(box, {
      onHover: (bay) => latest.current.onHover(bay),
      onOpen: (bay) => latest.current.onOpen(bay),
      onMove: (key, dx, dy) => latest.current.onMove(key, dx, dy),
      onChoose: (key) => latest.current.onChoose(key),
    });
    floor.current = made;
    const watch = new ResizeObserver(() => made.resize(box.clientWidth, box.clientHeight));
    watch.observe(box);
    // The bench drives the canvas as a hand would and counts its frames.
    Object.assign(box, { floor: made });
    return () => {
      watch.disconnect();
      made.destroy();
      floor.current = null;
    };
  }, []);
  useEffect(() => {
    if (state) floor.current?.show(state);
  });
  return { container, floor };
}
