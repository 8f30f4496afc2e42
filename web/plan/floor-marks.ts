// How each thing on a floor is drawn. All of it in units of the floor, of which CELL make a cell; sizes that are to be the same on the
// screen at every zoom are divided by the zoom.
import {
  bayCell,
  laneCell,
  laneLength,
  nameCells,
  zoneAreas,
  type Box,
  type FloorPlan,
  type PlanAisle,
  type PlanSpot,
  type PlanThing,
} from '#core/places';
import { colourOf, valueOf, type BayView, type Colouring } from './plan-view.ts';

/** Drawing units in a cell at zoom 1. */
export const CELL = 20;
export const INK = '#1c1a17';
export const THING = { door: '#fffdf8', bench: '#cfc6b6', wall: '#57514a' } as const;
const [SHEET, LANE, SOFT] = ['#fffdf8', '#efe6d3', '#57514a'];
const FACE = '"Barlow Condensed"';
const LEAST_TEXT = 8; // pixels; smaller is no word any more
const NAME_TEXT = 15; // pixels of a name on the screen, where there is room

type Pen = CanvasRenderingContext2D;

/** Where the names of a plan may stand: over the zones, and beside each single bin as far as nothing else stands there. */
export type Names = { readonly zones: readonly { zone: number; box: Box }[]; readonly roomOf: readonly number[] };

/** Finds the room for names once for a plan; in cells. */
export function namesOf(plan: FloorPlan): Names {
  const taken = new Set<number>();
  const take = (x: number, y: number): void => void taken.add(y * 10_000 + x);
  for (const spot of plan.spots) take(spot.x, spot.y);
  for (const aisle of plan.aisles)
    aisle.bays.forEach((_, i) => {
      const [lane, bay] = [laneCell(aisle, i), bayCell(aisle, i)];
      take(lane.x, lane.y);
      take(bay.x, bay.y);
    });
  const roomOf = plan.spots.map((spot) => {
    const most = nameCells(spot.address) - 1;
    let room = 0;
    while (room < most && !taken.has(spot.y * 10_000 + spot.x + 1 + room)) room += 1;
    return room;
  });
  return { zones: zoneAreas(plan), roomOf };
}

// A text in the room that there is: smaller, then cut at an ellipsis, then left out.
function write(c: Pen, text: string, at: { x: number; y: number; room: number; high: number; pixels: number }, style = 'bold'): void {
  const onScreen = at.pixels / CELL;
  const size = Math.min(NAME_TEXT / onScreen, at.high * 0.8);
  if (size * onScreen < LEAST_TEXT || text === '') return;
  c.fillStyle = INK;
  c.textBaseline = 'middle';
  const fits = (said: string, px: number): boolean => {
    c.font = `${style} ${px}px ${FACE}`;
    return c.measureText(said).width <= at.room;
  };
  const least = LEAST_TEXT / onScreen;
  for (const px of [size, Math.max(least, size * 0.8), Math.max(least, size * 0.65)])
    if (fits(text, px)) return c.fillText(text, at.x, at.y);
  for (let end = text.length - 1; end > 1; end -= 1) {
    const said = `${text.slice(0, end).trimEnd()}…`;
    if (fits(said, Math.max(least, size * 0.8))) return c.fillText(said, at.x, at.y);
  }
}

/** The floor within its wall. */
export function drawBuilding(c: Pen, plan: FloorPlan, scale: number): void {
  const wall = 5 / scale;
  c.fillStyle = SHEET;
  c.fillRect(0, 0, plan.width * CELL, plan.height * CELL);
  c.strokeStyle = INK;
  c.lineWidth = wall;
  c.strokeRect(-wall / 2, -wall / 2, plan.width * CELL + wall, plan.height * CELL + wall);
}

/** A zone: a line around all that stands in it, and its name in the row of cells above. */
export function drawZone(c: Pen, box: Box, name: string, pixels: number): void {
  const [x, y, w, h] = [(box.x - 0.3) * CELL, (box.y - 1) * CELL, (box.w + 0.6) * CELL, (box.h + 1.3) * CELL];
  c.strokeStyle = '#a99f8d';
  c.lineWidth = 1.2 / (pixels / CELL);
  c.setLineDash([6 / (pixels / CELL), 3 / (pixels / CELL)]);
  c.strokeRect(x, y, w, h);
  c.setLineDash([]);
  write(c, name, { x: box.x * CELL, y: (box.y - 0.5) * CELL, room: box.w * CELL, high: CELL, pixels });
}

/** A lane: where one walks, its name at the beginning, arrowheads where it is walked one way only. */
export function drawLane(c: Pen, aisle: PlanAisle, pixels: number, isBare: boolean): void {
  const long = laneLength(aisle) * CELL;
  c.save();
  c.translate(aisle.x * CELL, aisle.y * CELL);
  // From here on the lane runs to the right, its name is read as one walks it.
  if (aisle.along === 'y') c.transform(0, 1, -1, 0, CELL, 0);
  c.fillStyle = LANE;
  c.fillRect(0, 0, long, CELL);
  if (!isBare) {
    const heads = pixels >= 12 && long > CELL;
    write(c, aisle.name, { x: 3, y: CELL / 2, room: long - 5 - (heads ? CELL : 0), high: CELL, pixels });
    if (heads && aisle.way === 'both') {
      arrowhead(c, long - CELL * 0.95, false);
      arrowhead(c, long - CELL * 0.5, true);
    } else if (heads) for (let x = long - CELL * 0.8; x > CELL * 2; x -= CELL * 2) arrowhead(c, x, aisle.way === 'up');
  }
  c.restore();
}

function arrowhead(c: Pen, x: number, isForward: boolean): void {
  const [tail, tip] = isForward ? [x, x + 7] : [x + 7, x];
  c.beginPath();
  c.moveTo(tail, CELL * 0.3);
  c.lineTo(tip, CELL / 2);
  c.lineTo(tail, CELL * 0.7);
  c.closePath();
  c.fillStyle = SOFT;
  c.fill();
}

/** The racks on both sides of an aisle, each a block with an edge, its bays numbered where there is room. */
export function drawRack(c: Pen, aisle: PlanAisle, pixels: number, isNumbered: boolean): void {
  const onScreen = pixels / CELL;
  c.strokeStyle = INK;
  c.lineWidth = Math.min(1.6, CELL / 8) / onScreen;
  for (let side = 0; side < Math.min(aisle.sides, aisle.bays.length); side += 1) {
    const [first, count] = [bayCell(aisle, side), Math.ceil((aisle.bays.length - side) / aisle.sides)];
    const [w, h] = aisle.along === 'y' ? [1, count] : [count, 1];
    c.strokeRect(first.x * CELL, first.y * CELL, w * CELL, h * CELL);
  }
  if (!isNumbered) return;
  const size = Math.min(9, 13 / onScreen);
  c.font = `600 ${size}px ${FACE}`;
  c.textBaseline = 'middle';
  c.textAlign = 'center';
  aisle.bays.forEach((bay, i) => {
    const { x, y } = bayCell(aisle, i);
    const [middleX, middleY] = [(x + 0.5) * CELL, (y + 0.5) * CELL];
    const wide = Math.min(CELL - 3, c.measureText(bay).width + 3);
    c.fillStyle = 'rgba(255,253,248,0.86)';
    c.fillRect(middleX - wide / 2, middleY - size * 0.58, wide, size * 1.1);
    c.fillStyle = INK;
    c.fillText(bay, middleX, middleY, CELL - 4);
  });
  c.textAlign = 'start';
}

/** A bay, its bins one above the other as stripes. */
export function drawBay(c: Pen, bay: BayView, colouring: Colouring): void {
  const [x, y, n] = [bay.x * CELL, bay.y * CELL, Math.max(1, bay.bins.length)];
  const strip = CELL / n;
  bay.bins.forEach((bin, i) => {
    c.fillStyle = colourOf(valueOf(bin, colouring), colouring);
    c.fillRect(x + 0.5, y + i * strip + 0.25, CELL - 1, strip - 0.5);
  });
  c.strokeStyle = SOFT;
  c.lineWidth = 0.6;
  c.strokeRect(x + 0.5, y + 0.25, CELL - 1, CELL - 0.5);
}

/** A door is an opening in the wall that it stands at, a bench and a wall are boxes. */
export function drawThing(c: Pen, thing: PlanThing, plan: FloorPlan, pixels: number): void {
  const [x, y, w, h] = [thing.x * CELL, thing.y * CELL, thing.w * CELL, thing.h * CELL];
  const onScreen = pixels / CELL;
  c.strokeStyle = INK;
  c.lineWidth = 1.5 / onScreen;
  if (thing.kind === 'door') {
    const gap = 5 / onScreen;
    const across = thing.y > 0 && thing.y + thing.h < plan.height && (thing.x === 0 || thing.x + thing.w === plan.width);
    const edge = across ? (thing.x === 0 ? -gap : plan.width * CELL) : thing.y === 0 ? -gap : plan.height * CELL;
    c.fillStyle = SHEET;
    if (across) c.fillRect(edge, y, gap, h);
    else if (thing.y === 0 || thing.y + thing.h === plan.height) c.fillRect(x, edge, w, gap);
    else c.strokeRect(x, y, w, h);
  } else {
    c.fillStyle = THING[thing.kind];
    c.fillRect(x, y, w, h);
    c.strokeRect(x, y, w, h);
  }
  if (thing.kind !== 'wall') write(c, thing.name, { x: x + 3, y: y + CELL / 2, room: w - 5, high: CELL, pixels });
}

/** The name of a single bin, beside it. */
export function drawSpotName(c: Pen, spot: PlanSpot, room: number, pixels: number): void {
  c.strokeStyle = INK;
  c.lineWidth = 1.2 / (pixels / CELL);
  c.strokeRect(spot.x * CELL, spot.y * CELL, CELL, CELL);
  const inside = room < 1;
  write(c, spot.address, {
    ...{ x: (spot.x + (inside ? 0 : 1)) * CELL + 2, y: (spot.y + 0.5) * CELL },
    ...{ room: (inside ? 1 : room) * CELL - 3, high: CELL * 0.9, pixels },
  });
}
