import Konva from 'konva';
import { aisleBox, type FloorPlan, type PlanAisle } from '#core/places';
import { bayValue, colourOf, type BayView, type Colouring } from './plan-view.ts';
import {
  CELL,
  drawBay,
  drawBuilding,
  drawLane,
  drawRack,
  drawSpotName,
  drawThing,
  drawZone,
  INK,
  namesOf,
  THING,
  type Names,
} from './floor-marks.ts';

const LEVELS_FROM = 26; // pixels of a cell from which the levels of a bay are drawn
const NUMBERS_FROM = 18; // and its number
const [LEAST_ZOOM, MOST_ZOOM] = [0.05, 8];
const AMBER = '#ffb000';
const WALL = 1; // cells around the floor: its wall, and the doors in it

export type FloorState = {
  plan: FloorPlan;
  zones: ReadonlyMap<number, string>;
  bays: readonly BayView[];
  colouring: Colouring;
  lit: ReadonlySet<BayView>;
  focus: BayView | null;
  editing: boolean;
  chosen: string | null;
};
type Handlers = {
  onHover: (bay: BayView | null) => void;
  onOpen: (bay: BayView) => void;
  onMove: (key: string, x: number, y: number) => void;
  onChoose: (key: string | null) => void;
};

export const aisleId = (aisle: PlanAisle): string => `aisle:${aisle.key}`;
export const thingId = (index: number): string => `thing:${index}`;
export const spotId = (index: number): string => `spot:${index}`;
export const zoneId = (zone: number): string => `zone:${zone}`;

/** The floor on a canvas. One shape draws everything that is seen and nothing that is not, so that 20,000 bins pan as lightly as 200;
 *  only what is being arranged is made of single nodes that can be dragged. */
export class FloorCanvas {
  private readonly stage: Konva.Stage;
  private readonly floor = new Konva.Layer({ listening: false });
  private readonly pieces = new Konva.Layer();
  private readonly handlers: Handlers;
  private state: FloorState | null = null;
  private byCell = new Map<number, BayView>();
  private names: Names = { zones: [], roomOf: [] };
  private fitted = false;
  private bitmap: { canvas: HTMLCanvasElement; scale: number } | null = null;

  constructor(container: HTMLDivElement, handlers: Handlers) {
    this.handlers = handlers;
    this.stage = new Konva.Stage({ container, width: container.clientWidth, height: container.clientHeight, draggable: true });
    // Sharper than the screen costs four times the work and shows nothing more.
    Konva.pixelRatio = Math.min(window.devicePixelRatio, 2);
    this.floor.add(new Konva.Shape({ sceneFunc: (context) => this.drawFloor(context), perfectDrawEnabled: false, listening: false }));
    this.stage.add(this.floor, this.pieces);
    this.stage.on('wheel', (event) => {
      event.evt.preventDefault();
      const pointer = this.stage.getPointerPosition();
      if (pointer) this.zoomAt(pointer, event.evt.deltaY < 0 ? 1.15 : 1 / 1.15);
    });
    this.stage.on('mousemove', () => this.handlers.onHover(this.bayUnder()));
    this.stage.on('mouseleave', () => this.handlers.onHover(null));
    this.stage.on('click tap', (event) => {
      const bay = this.bayUnder();
      if (this.state?.editing) {
        if (event.target === this.stage) this.handlers.onChoose(null);
      } else if (bay) this.handlers.onOpen(bay);
    });
  }

  destroy(): void {
    this.stage.destroy();
  }

  resize(width: number, height: number): void {
    this.stage.size({ width, height });
    if (!this.fitted) this.fit();
  }

  show(state: FloorState): void {
    const rearranged = state.plan !== this.state?.plan || state.editing !== this.state.editing || state.chosen !== this.state.chosen;
    if (state.bays !== this.state?.bays) this.byCell = new Map(state.bays.map((b) => [b.y * 10_000 + b.x, b]));
    if (state.plan !== this.state?.plan) this.names = namesOf(state.plan);
    if (state.bays !== this.state?.bays || state.colouring !== this.state.colouring || state.plan !== this.state.plan) this.bitmap = null;
    this.state = state;
    if (rearranged) this.layPieces();
    if (!this.fitted) this.fit();
    this.floor.batchDraw();
  }

  /** Shows the whole floor. */
  fit(): void {
    if (!this.state || this.stage.width() === 0) return;
    const { width, height } = this.state.plan;
    const scale = Math.min(this.stage.width() / ((width + WALL) * CELL), this.stage.height() / ((height + WALL) * CELL));
    this.stage.scale({ x: scale, y: scale });
    this.stage.position({ x: (this.stage.width() - width * CELL * scale) / 2, y: (this.stage.height() - height * CELL * scale) / 2 });
    this.fitted = true;
    this.stage.batchDraw();
  }

  zoom(factor: number): void {
    this.zoomAt({ x: this.stage.width() / 2, y: this.stage.height() / 2 }, factor);
  }

  /** Moves the picture by pixels; the bench measures its frames by this. */
  pan(dx: number, dy: number): void {
    this.stage.position({ x: this.stage.x() + dx, y: this.stage.y() + dy });
    this.stage.batchDraw();
  }

  /** Brings a bay into sight if it is not. */
  reveal(bay: BayView): void {
    const scale = this.stage.scaleX();
    const [x, y] = [bay.x * CELL * scale + this.stage.x(), bay.y * CELL * scale + this.stage.y()];
    const margin = 60;
    if (x > margin && y > margin && x < this.stage.width() - margin && y < this.stage.height() - margin) return;
    this.stage.position({ x: this.stage.width() / 2 - bay.x * CELL * scale, y: this.stage.height() / 2 - bay.y * CELL * scale });
    this.stage.batchDraw();
  }

  private zoomAt(point: { x: number; y: number }, factor: number): void {
    const before = this.stage.scaleX();
    const after = Math.min(MOST_ZOOM, Math.max(LEAST_ZOOM, before * factor));
    const fixed = { x: (point.x - this.stage.x()) / before, y: (point.y - this.stage.y()) / before };
    this.stage.scale({ x: after, y: after });
    this.stage.position({ x: point.x - fixed.x * after, y: point.y - fixed.y * after });
    this.stage.batchDraw();
  }

  private bayUnder(): BayView | null {
    const at = this.stage.getRelativePointerPosition();
    return at ? (this.byCell.get(Math.floor(at.y / CELL) * 10_000 + Math.floor(at.x / CELL)) ?? null) : null;
  }

  private drawFloor(context: Konva.Context): void {
    const { state } = this;
    if (!state) return;
    const c = context._context as CanvasRenderingContext2D;
    const scale = this.stage.scaleX();
    const seen = {
      left: -this.stage.x() / scale / CELL - 1,
      top: -this.stage.y() / scale / CELL - 1,
      right: (this.stage.width() - this.stage.x()) / scale / CELL + 1,
      bottom: (this.stage.height() - this.stage.y()) / scale / CELL + 1,
    };
    const pixels = CELL * scale;
    const isSeen = (box: { x: number; y: number; w: number; h: number }): boolean =>
      box.x <= seen.right && box.y <= seen.bottom && box.x + box.w >= seen.left && box.y + box.h >= seen.top;
    drawBuilding(c, state.plan, scale);
    if (!state.editing) for (const { zone, box } of this.names.zones) drawZone(c, box, state.zones.get(zone) ?? '', pixels);
    const aisles = state.plan.aisles.filter((aisle) => isSeen(aisleBox(aisle)));
    for (const aisle of aisles) drawLane(c, aisle, pixels, state.editing);
    if (pixels < LEVELS_FROM) this.drawBitmap(c, state);
    else for (const bay of state.bays) if (isSeen({ x: bay.x, y: bay.y, w: 1, h: 1 })) drawBay(c, bay, state.colouring);
    this.drawLit(c, state, scale);
    for (const aisle of aisles) drawRack(c, aisle, pixels, pixels >= NUMBERS_FROM && !state.editing);
    if (!state.editing) {
      for (const thing of state.plan.things) drawThing(c, thing, state.plan, pixels);
      state.plan.spots.forEach((spot, i) => isSeen({ ...spot, w: 8, h: 1 }) && drawSpotName(c, spot, this.names.roomOf[i] ?? 0, pixels));
    }
    if (state.focus) {
      c.strokeStyle = INK;
      c.lineWidth = 4 / scale;
      c.strokeRect(state.focus.x * CELL, state.focus.y * CELL, CELL, CELL);
    }
  }

  private drawLit(c: CanvasRenderingContext2D, state: FloorState, scale: number): void {
    c.fillStyle = AMBER;
    c.strokeStyle = INK;
    c.lineWidth = 2 / scale;
    for (const bay of state.lit) {
      const grow = Math.max(0, 8 / scale - CELL) / 2;
      c.fillRect(bay.x * CELL - grow, bay.y * CELL - grow, CELL + 2 * grow, CELL + 2 * grow);
      c.strokeRect(bay.x * CELL - grow, bay.y * CELL - grow, CELL + 2 * grow, CELL + 2 * grow);
    }
  }

  // From afar every bay is one small square; they are painted once for a zoom and then only carried about.
  private drawBitmap(c: CanvasRenderingContext2D, state: FloorState): void {
    const wanted = Math.min(26, Math.max(3, Math.ceil(CELL * this.stage.scaleX() * Konva.pixelRatio)));
    if (!this.bitmap || this.bitmap.scale !== wanted) {
      const canvas = document.createElement('canvas');
      canvas.width = state.plan.width * wanted;
      canvas.height = state.plan.height * wanted;
      const paint = canvas.getContext('2d');
      if (!paint) return;
      for (const bay of state.bays) {
        paint.fillStyle = colourOf(bayValue(bay, state.colouring), state.colouring);
        paint.fillRect(bay.x * wanted, bay.y * wanted, wanted, wanted);
        // An edge around each, so that empty bays are seen on the floor too.
        paint.strokeStyle = wanted > 5 ? '#8d8474' : '#cfc6b6';
        paint.lineWidth = 1;
        paint.strokeRect(bay.x * wanted + 0.5, bay.y * wanted + 0.5, wanted - 1, wanted - 1);
      }
      this.bitmap = { canvas, scale: wanted };
    }
    c.imageSmoothingEnabled = false;
    c.drawImage(this.bitmap.canvas, 0, 0, state.plan.width * CELL, state.plan.height * CELL);
  }

  private layPieces(): void {
    this.pieces.destroyChildren();
    if (this.state?.editing) {
      for (const { zone, box } of this.names.zones) {
        const name = this.state.zones.get(zone) ?? '';
        this.pieces.add(this.pieceOf(zoneId(zone), { x: box.x, y: box.y - 1, w: box.w, h: 1 }, name, '#e9dfca', box));
      }
      for (const aisle of this.state.plan.aisles)
        this.pieces.add(this.pieceOf(aisleId(aisle), aisleBox(aisle), aisle.name, 'rgba(150,196,187,0.55)'));
      for (const [i, spot] of this.state.plan.spots.entries())
        this.pieces.add(
          this.pieceOf(
            spotId(i),
            { x: spot.x, y: spot.y, w: 1 + (this.names.roomOf[i] ?? 0), h: 1 },
            spot.address,
            'rgba(150,196,187,0.9)',
          ),
        );
      for (const [i, thing] of this.state.plan.things.entries())
        this.pieces.add(this.pieceOf(thingId(i), thing, thing.name || thing.kind, THING[thing.kind]));
    }
    this.pieces.batchDraw();
  }

  // A zone is held at its name, and carries all that stands in it.
  private pieceOf(id: string, box: Box, name: string, fill: string, around?: Box): Konva.Group {
    const chosen = this.state?.chosen === id;
    const group = new Konva.Group({ x: box.x * CELL, y: box.y * CELL, draggable: true });
    const stroke = chosen ? AMBER : INK;
    if (around)
      group.add(
        new Konva.Rect({
          ...{ x: (around.x - box.x) * CELL, y: (around.y - box.y) * CELL, width: around.w * CELL, height: around.h * CELL },
          ...{ stroke, dash: [6, 4], strokeWidth: chosen ? 4 : 1, listening: false },
        }),
      );
    group.add(
      new Konva.Rect({ width: box.w * CELL, height: box.h * CELL, fill, stroke, strokeWidth: chosen ? 4 : 1.5, cornerRadius: 2 }),
      new Konva.Text({
        ...{ text: name, wrap: 'none', ellipsis: true, width: Math.max(1, box.w) * CELL - 4, height: CELL, x: 2, y: 3 },
        ...{ fontFamily: 'Barlow Condensed', fontStyle: 'bold', fontSize: 15, fill: INK, listening: false },
      }),
    );
    group.on('mousedown touchstart', () => this.handlers.onChoose(id));
    group.on('dragmove', () => group.position({ x: Math.round(group.x() / CELL) * CELL, y: Math.round(group.y() / CELL) * CELL }));
    group.on('dragend', (event) => {
      event.cancelBubble = true;
      this.handlers.onMove(id, Math.round(group.x() / CELL) - box.x, Math.round(group.y() / CELL) - box.y);
    });
    return group;
  }
}

type Box = { x: number; y: number; w: number; h: number };
