import { Link } from 'react-router';
import { aisleBox, type Cell, type FloorPlan, type PlanAisle, type PlanThing } from '#core/places';
import { Button, Field, read } from '#web/base';
import { Select } from '#web/forms';
import { aisleId, spotId, thingId, zoneId } from './floor-canvas.ts';

const WAYS = [
  ['both', 'both ways'],
  ['up', 'one way, up the bays'],
  ['down', 'one way, down the bays'],
] as const;

function piecesOf(plan: FloorPlan, zones: ReadonlyMap<number, string>): [string, string][] {
  const standing = new Set([...plan.aisles, ...plan.spots].map((p) => p.zone));
  return [
    ...[...standing].map((zone): [string, string] => [zoneId(zone), `zone ${zones.get(zone) ?? ''}`]),
    ...plan.things.map((t, i): [string, string] => [thingId(i), `${t.kind} ${t.name}`]),
    ...plan.aisles.map((a): [string, string] => [aisleId(a), `aisle ${a.name}`]),
    ...plan.spots.map((s, i): [string, string] => [spotId(i), `bin ${s.address}`]),
  ];
}

/** The plan with one piece moved by so many cells: a zone with all that stands in it, an aisle, a single bin, a door. Nothing leaves the
 *  floor to the left or to the front; to the right and to the back the floor grows. */
export function movePiece(plan: FloorPlan, key: string, dx: number, dy: number): FloorPlan {
  const shift = <T extends Cell>(piece: T): T => ({ ...piece, x: Math.max(0, piece.x + dx), y: Math.max(0, piece.y + dy) });
  const moved = {
    ...plan,
    aisles: plan.aisles.map((a) => (aisleId(a) === key || zoneId(a.zone) === key ? shift(a) : a)),
    spots: plan.spots.map((s, i) => (spotId(i) === key || zoneId(s.zone) === key ? shift(s) : s)),
    things: plan.things.map((t, i) => (thingId(i) === key ? shift(t) : t)),
  };
  return { ...moved, ...floorFor(moved) };
}

/** The plan with an aisle turned, its beginning where it was. */
export const turnPiece = (plan: FloorPlan, key: string): FloorPlan => {
  const turned = {
    ...plan,
    aisles: plan.aisles.map((a) => (aisleId(a) === key ? { ...a, along: a.along === 'x' ? ('y' as const) : ('x' as const) } : a)),
  };
  return { ...turned, ...floorFor(turned) };
};

// As large as what is in it, and never smaller than it was.
function floorFor(plan: FloorPlan): { width: number; height: number } {
  const boxes = [...plan.aisles.map(aisleBox), ...plan.spots.map((s) => ({ ...s, w: 1, h: 1 })), ...plan.things];
  return {
    width: boxes.reduce((most, b) => Math.max(most, b.x + b.w + 1), plan.width),
    height: boxes.reduce((most, b) => Math.max(most, b.y + b.h + 1), plan.height),
  };
}

/** What can be said of the piece that is being arranged; and what may be added to the floor. */
export function Arranging({
  plan,
  zones,
  chosen,
  fault,
  edit,
  choose,
}: {
  plan: FloorPlan;
  zones: ReadonlyMap<number, string>;
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
      <Select
        label="Piece"
        value={chosen ?? ''}
        onChange={(v) => choose(v || null)}
        options={[['', 'choose, or take one by the mouse'], ...piecesOf(plan, zones)]}
      />
      {chosen && <p className="text-sm text-soft">On the plan: arrow keys move it by a cell, R turns an aisle, Ctrl Z takes back.</p>}
      {aisle && (
        <fieldset className="space-y-2">
          <legend className="code text-2xl">Aisle {aisle.name}</legend>
          <Select
            label="Runs"
            value={aisle.along}
            onChange={(v) => setAisle({ along: v })}
            options={[
              ['y', 'from front to back'],
              ['x', 'from side to side'],
            ]}
          />
          <Select label="Walked" value={aisle.way} onChange={(v) => setAisle({ way: v })} options={WAYS} />
          <Select
            label="Bays on"
            value={aisle.sides}
            onChange={(v) => setAisle({ sides: v })}
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
            Remove
          </Button>
        </fieldset>
      )}
      {!chosen && (
        <p className="text-soft">
          Drag zones by their names, aisles, doors, bench and walls to where they stand. Choose an aisle to turn it or say which way it is
          walked.
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
      <Button
        look="quiet"
        onClick={() =>
          void read('places.plan', { query: { anew: 'yes' } }).then((drawn) => edit((p) => ({ ...drawn.layout, cell: p.cell })))
        }
      >
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
