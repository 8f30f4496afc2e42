import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import {
  checkPlan,
  generatePlan,
  indexStops,
  placesSentence,
  walkGrid,
  walkingDistances,
  type Cell,
  type FloorPlan,
  type PlanAisle,
  type PlanThing,
} from '#core/places';
import { Button, Empty, Field, Plate, Select, Trouble, useFilters, useRead, useSend, SearchBox, Unsaved } from '#web/base';
import { aisleId, FloorCanvas, spotId, thingId } from './floor-canvas.ts';
import { PlacesFrame, useMySite } from '#web/places';
import { bayBeside, bayViews, legendOf, sayValue, type BayView, type Colouring } from './plan-view.ts';

const COLOURINGS = [
  ['fill', 'how full'],
  ['touches', 'touches in 30 days'],
  ['counted', 'days since the last count'],
] as const;
const WAYS = [
  ['both', 'both ways'],
  ['up', 'one way, up the bays'],
  ['down', 'one way, down the bays'],
] as const;
const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

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
  const lit = useMemo(() => {
    const holding = new Set(wanted.length > 1 ? where?.bins : []);
    const begins = wanted.toUpperCase();
    return new Set(wanted === '' ? [] : bays.filter((b) => b.bins.some((bin) => holding.has(bin.id) || bin.address.startsWith(begins))));
  }, [bays, wanted, where]);
  const save = useSend('places.savePlan', {
    onDone: () => {
      setDraft(null);
      setChosen(null);
      toast.success('The plan is kept. Distances follow it from now on.');
    },
  });
  const edit = useCallback(
    (change: (plan: FloorPlan) => FloorPlan) => setDraft((was) => (was ? [...was.slice(-40), change(was.at(-1) as FloorPlan)] : was)),
    [],
  );
  const { container, floor } = useFloor(plan ? { plan, bays, colouring, lit, focus, editing: draft !== null, chosen } : null, {
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
    if (first) floor.current?.reveal(first);
  }, [lit, floor]);
  const onKey = (event: React.KeyboardEvent): void => {
    const arrow = ARROWS[event.key];
    if (arrow && bays[0]) {
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
            <Button disabled={draft.length < 2} onClick={() => setDraft(draft.slice(0, -1))}>
              Undo
            </Button>
            <Button onClick={() => (setDraft(null), setChosen(null))}>Cancel</Button>
            <Button
              look="next"
              disabled={fault !== null || draft.length < 2 || save.isPending}
              onClick={() => save.mutate({ body: { revision: kept.revision, layout: draft.at(-1) as FloorPlan } })}
            >
              Save
            </Button>
          </>
        ))
      }
    >
      <Trouble error={error} />
      <Unsaved when={draft !== null && draft.length > 1} what="The plan" />
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
        <Select label="Colour by" hideLabel value={colouring} onChange={(e) => set('colour', e.target.value)} options={COLOURINGS} />
        <ul className="flex flex-wrap gap-3 text-sm" aria-label="Key to the colours">
          {legendOf(colouring).map((l) => (
            <li key={l.says} className="flex items-center gap-1">
              <span aria-hidden className="size-4 border border-ink/60" style={{ background: l.colour }} />
              {l.says}
            </li>
          ))}
        </ul>
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
          aria-label="Plan of the floor. Arrow keys walk from bay to bay, Enter opens the bin, plus and minus zoom, 0 shows the whole floor."
          tabIndex={0}
          onKeyDown={onKey}
          className="h-[calc(100dvh-250px)] min-h-80 min-w-0 flex-1 cursor-grab overflow-hidden border-2 border-ink/70 bg-shade"
        />
        <aside aria-live="polite" className="w-72 shrink-0">
          {draft && plan ? (
            <Arranging plan={plan} chosen={chosen} fault={fault ? placesSentence(fault) : null} edit={edit} choose={setChosen} />
          ) : shown ? (
            <BayFacts bay={shown} colouring={colouring} plan={plan as FloorPlan} />
          ) : (
            <Empty title="Point at a bay.">Its bins and figures are shown here. Drag to move about, turn the wheel to come closer.</Empty>
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

function BayFacts({ bay, colouring, plan }: { bay: BayView; colouring: Colouring; plan: FloorPlan }) {
  const metres = useMemo(() => metresFromBench(plan, bay), [plan, bay]);
  return (
    <div>
      <h2 className="code text-3xl">{bay.aisle === '' ? bay.bay : `${bay.aisle} · ${bay.bay}`}</h2>
      {metres !== null && (
        <p className="mb-2 text-soft">
          {metres === Infinity ? 'cannot be reached from the bench' : `${metres.toFixed(0)} m from the bench`}
        </p>
      )}
      <ul>
        {bay.bins
          .toReversed()
          .slice(0, 24)
          .map((b) => (
            <li key={b.id} className="flex items-center justify-between border-b border-line py-1">
              <Plate address={b.address} to={`/bins/${b.id}`} />
              <span className="text-sm">{sayValue(b, colouring)}</span>
            </li>
          ))}
      </ul>
      {bay.bins.length > 24 && <p className="text-soft">and {bay.bins.length - 24} more</p>}
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

function movePiece(plan: FloorPlan, key: string, dx: number, dy: number): FloorPlan {
  const shift = <T extends Cell>(piece: T): T => ({ ...piece, x: Math.max(0, piece.x + dx), y: Math.max(0, piece.y + dy) });
  return {
    ...plan,
    aisles: plan.aisles.map((a) => (aisleId(a) === key ? shift(a) : a)),
    spots: plan.spots.map((s, i) => (spotId(i) === key ? shift(s) : s)),
    things: plan.things.map((t, i) => (thingId(i) === key ? shift(t) : t)),
  };
}

function Arranging({
  plan,
  chosen,
  fault,
  edit,
  choose,
}: {
  plan: FloorPlan;
  chosen: string | null;
  fault: string | null;
  edit: (change: (plan: FloorPlan) => FloorPlan) => void;
  choose: (key: string | null) => void;
}) {
  const aisle = plan.aisles.find((a) => aisleId(a) === chosen);
  const index = plan.things.findIndex((_, i) => thingId(i) === chosen);
  const thing = plan.things[index];
  const setAisle = (part: Partial<PlanAisle>): void =>
    edit((p) => ({ ...p, aisles: p.aisles.map((a) => (aisleId(a) === chosen ? { ...a, ...part } : a)) }));
  const setThing = (part: Partial<PlanThing>): void =>
    edit((p) => ({ ...p, things: p.things.map((t, i) => (i === index ? { ...t, ...part } : t)) }));
  const number = (label: string, value: number, least: number, onNumber: (n: number) => void) => (
    <Field
      label={label}
      type="number"
      min={least}
      max={600}
      value={value}
      onChange={(e) => onNumber(Math.max(least, Math.round(Number(e.target.value))))}
    />
  );
  const add = (kind: PlanThing['kind'], name: string): void => {
    edit((p) => ({ ...p, things: [...p.things, { kind, name, x: 1, y: 2, w: kind === 'wall' ? 6 : 3, h: 1 }] }));
    choose(thingId(plan.things.length));
  };
  return (
    <div className="space-y-3">
      {fault && (
        <p role="alert" className="border-2 border-wrong bg-wrong-pale p-2 font-semibold text-wrong">
          {fault}
        </p>
      )}
      {aisle && (
        <fieldset className="space-y-2">
          <legend className="code text-2xl">Aisle {aisle.name}</legend>
          <Select
            label="Runs"
            value={aisle.along}
            onChange={(e) => setAisle({ along: e.target.value as 'x' | 'y' })}
            options={[
              ['y', 'from front to back'],
              ['x', 'from side to side'],
            ]}
          />
          <Select label="Walked" value={aisle.way} onChange={(e) => setAisle({ way: e.target.value as PlanAisle['way'] })} options={WAYS} />
          <Select
            label="Bays on"
            value={aisle.sides}
            onChange={(e) => setAisle({ sides: Number(e.target.value) as 1 | 2 })}
            options={[
              [1, 'one side'],
              [2, 'both sides'],
            ]}
          />
          <div className="grid grid-cols-2 gap-2">
            {number('From the left', aisle.x, 0, (x) => setAisle({ x }))}
            {number('From the front', aisle.y, 0, (y) => setAisle({ y }))}
          </div>
        </fieldset>
      )}
      {thing && (
        <fieldset className="space-y-2">
          <legend className="code text-2xl">{thing.kind}</legend>
          <Field label="Name" value={thing.name} onChange={(e) => setThing({ name: e.target.value.slice(0, 40) })} />
          <div className="grid grid-cols-2 gap-2">
            {number('From the left', thing.x, 0, (x) => setThing({ x }))}
            {number('From the front', thing.y, 0, (y) => setThing({ y }))}
            {number('Wide', thing.w, 1, (w) => setThing({ w }))}
            {number('Deep', thing.h, 1, (h) => setThing({ h }))}
          </div>
          <Button
            look="wrong"
            onClick={() => {
              edit((p) => ({ ...p, things: p.things.filter((_, i) => i !== index) }));
              choose(null);
            }}
          >
            Take it away
          </Button>
        </fieldset>
      )}
      {!aisle && !thing && (
        <p className="text-soft">
          Drag aisles, doors, bench and walls to where they stand. Choose one to turn it or say which way it is walked.
        </p>
      )}
      <div className="flex flex-wrap gap-1 border-t border-line pt-3">
        <Button onClick={() => add('door', 'Door')}>+ Door</Button>
        <Button onClick={() => add('bench', 'Bench')}>+ Bench</Button>
        <Button onClick={() => add('wall', '')}>+ Wall</Button>
      </div>
      <div className="grid grid-cols-3 gap-2">
        {number('Floor wide', plan.width, 5, (width) => edit((p) => ({ ...p, width })))}
        {number('Floor deep', plan.height, 5, (height) => edit((p) => ({ ...p, height })))}
        <Field
          label="Cell in m"
          type="number"
          step="0.1"
          min={0.2}
          max={20}
          value={plan.cell}
          onChange={(e) => edit((p) => ({ ...p, cell: Math.max(0.2, Number(e.target.value)) }))}
        />
      </div>
      <Button look="quiet" onClick={() => edit((p) => redrawn(p))}>
        Draw it anew from the addresses
      </Button>
      <p className="text-sm text-soft">
        Bins come from{' '}
        <Link to="/places/build" className="underline">
          Build
        </Link>{' '}
        and Import.
      </p>
    </div>
  );
}

// The same bays, placed as if nobody had arranged them; doors, bench and walls as first drawn.
function redrawn(plan: FloorPlan): FloorPlan {
  const bins = [
    ...plan.aisles.flatMap((a) => a.bays.map((bay) => ({ zone: a.zone, zoneCode: '', address: `${a.name}-${bay}` }))),
    ...plan.spots.map((s) => ({ zone: s.zone, zoneCode: '', address: s.address })),
  ];
  return { ...generatePlan(bins), cell: plan.cell };
}
