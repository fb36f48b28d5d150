import { boundsOfShapes, type Shape } from '../../core/mask/shapes.ts';
import { intersect, isEmpty, type Box } from '../../core/raster/raster.ts';
import { theme } from '../theme.ts';

/** Traces a shape's area on a canvas whose units are picture px. */
function paint(ctx: CanvasRenderingContext2D, shape: Shape, grow = 0): void {
  ctx.globalCompositeOperation = shape.op === 'add' ? 'source-over' : 'destination-out';
  ctx.fillStyle = ctx.strokeStyle = '#000';
  ctx.lineCap = ctx.lineJoin = 'round';
  ctx.beginPath();
  if (shape.kind === 'box') {
    ctx.rect(shape.x - grow, shape.y - grow, shape.width + 2 * grow, shape.height + 2 * grow);
    ctx.fill();
    return;
  }
  const [first, ...rest] = shape.points;
  ctx.moveTo(first[0], first[1]);
  for (const [x, y] of rest) ctx.lineTo(x, y);
  if (shape.kind === 'outline') {
    ctx.closePath();
    ctx.fill('nonzero');
    if (grow > 0) {
      ctx.lineWidth = 2 * grow;
      ctx.stroke();
    }
    return;
  }
  if (rest.length === 0) ctx.lineTo(first[0] + 0.01, first[1]);
  ctx.lineWidth = shape.size + 2 * grow;
  ctx.stroke();
}

let hatches: Map<string, CanvasPattern> | undefined;

function hatch(ctx: CanvasRenderingContext2D, colour: string): CanvasPattern {
  hatches ??= new Map();
  let pattern = hatches.get(colour);
  if (!pattern) {
    const tile = document.createElement('canvas');
    tile.width = tile.height = 7;
    const c = tile.getContext('2d')!;
    for (const [line, width] of [
      ['rgb(255 255 255 / 75%)', 2.1],
      [colour, 1.1],
    ] as const) {
      c.strokeStyle = line;
      c.lineWidth = width;
      c.beginPath();
      for (const d of [-7, 0, 7]) {
        c.moveTo(d - 1, 8);
        c.lineTo(d + 8, -1);
      }
      c.stroke();
    }
    pattern = ctx.createPattern(tile, 'repeat')!;
    hatches.set(colour, pattern);
  }
  return pattern;
}

/** Something to be shown hatched on the picture. */
export interface Hatched {
  shapes: Shape[];
  margin: number;
  colour: string;
}

export const COLOURS = {
  open: theme.ink,
  selected: '#0B6E69',
  donor: '#1B5E9B',
  barred: '#9A5B00',
  edges: '#7A1F6B',
  grounds: '#4E6B12',
  draft: '#0B6E69',
} as const;

/** Where picture px lie on a canvas. */
export interface Placing {
  /** see ViewerHandle.map */
  map: [number, number, number, number, number, number];
  /** screen px for one picture px */
  scale: number;
  /** px of the canvas for one of the screen */
  ratio: number;
}

/** Draws with the units of a canvas being picture px. */
export function inPicture(ctx: CanvasRenderingContext2D, { map, ratio }: Placing): void {
  const [a, b, c, d, e, f] = map;
  ctx.setTransform(a * ratio, b * ratio, c * ratio, d * ratio, e * ratio, f * ratio);
}

/** Draws covers of one colour as fine diagonal hatching with a thin rim; `scratch` is a canvas of the same size to work on. */
export function drawHatched(
  ctx: CanvasRenderingContext2D,
  scratch: HTMLCanvasElement,
  items: readonly Hatched[],
  placing: Placing,
): void {
  const { width, height } = ctx.canvas;
  if (scratch.width !== width) scratch.width = width;
  if (scratch.height !== height) scratch.height = height;
  const s = scratch.getContext('2d')!;
  s.setTransform(1, 0, 0, 1, 0, 0);
  s.globalCompositeOperation = 'source-over';
  s.clearRect(0, 0, width, height);
  inPicture(s, placing);
  for (const item of items) for (const shape of item.shapes) paint(s, shape, item.margin);
  const [{ colour }] = items;
  // What is covered becomes hatching.
  s.setTransform(1, 0, 0, 1, 0, 0);
  s.globalCompositeOperation = 'source-in';
  s.fillStyle = hatch(s, colour);
  s.fillRect(0, 0, width, height);
  ctx.save();
  ctx.setTransform(1, 0, 0, 1, 0, 0);
  // A rim one px wide makes small and thin covers visible at any zoom.
  ctx.shadowColor = colour;
  ctx.shadowBlur = 1.5;
  ctx.drawImage(scratch, 0, 0);
  ctx.restore();
}

const bounds = new WeakMap<readonly Shape[], Box>();

/** Box around shapes without their margin, wherever they lie, worked out once. */
function boundsOf(shapes: readonly Shape[]): Box {
  let box = bounds.get(shapes);
  if (!box) bounds.set(shapes, (box = boundsOfShapes(shapes, FAR, FAR)));
  return box;
}
/** Box around all of the picture that can be seen on a canvas. */
function seenOf({ width, height }: HTMLCanvasElement, { map: [a, b, c, d, e, f], ratio }: Placing): Box {
  const determinant = a * d - b * c;
  const corners = [
    [0, 0],
    [width / ratio, 0],
    [0, height / ratio],
    [width / ratio, height / ratio],
  ].map(([u, v]) => [(d * (u - e) - c * (v - f)) / determinant, (a * (v - f) - b * (u - e)) / determinant]);
  const [xs, ys] = [corners.map((p) => p[0]), corners.map((p) => p[1])];
  const [x, y] = [Math.min(...xs), Math.min(...ys)];
  return { x, y, width: Math.max(...xs) - x, height: Math.max(...ys) - y };
}

/** px beyond every picture. */
const FAR = 400_000;

/** Draws all that can be seen of many covers: those of one colour in one go, so that thousands cost little more than one. */
export function drawAllHatched(
  ctx: CanvasRenderingContext2D,
  scratch: HTMLCanvasElement,
  items: readonly Hatched[],
  placing: Placing,
): void {
  const { scale } = placing;
  const view = seenOf(ctx.canvas, placing);
  const together = new Map<string, Hatched[]>();
  for (const item of items) {
    const { x, y, width, height } = boundsOf(item.shapes);
    const m = item.margin + 2 / scale;
    if (isEmpty(intersect(view, { x: x - m, y: y - m, width: width + 2 * m, height: height + 2 * m }))) continue;
    // What is taken away from a cover must not take from its neighbours.
    if (item.shapes.some((s) => s.op === 'take')) drawHatched(ctx, scratch, [item], placing);
    else if (together.has(item.colour)) together.get(item.colour)!.push(item);
    else together.set(item.colour, [item]);
  }
  for (const group of together.values()) drawHatched(ctx, scratch, group, placing);
}

/** A canvas sized to its place on the screen and cleared, its units screen px. */
export function clearedContext(canvas: HTMLCanvasElement): { ctx: CanvasRenderingContext2D; ratio: number } {
  const ratio = window.devicePixelRatio || 1;
  const width = Math.round(canvas.clientWidth * ratio);
  const height = Math.round(canvas.clientHeight * ratio);
  if (canvas.width !== width) canvas.width = width;
  if (canvas.height !== height) canvas.height = height;
  const ctx = canvas.getContext('2d')!;
  ctx.setTransform(1, 0, 0, 1, 0, 0);
  ctx.clearRect(0, 0, width, height);
  ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
  return { ctx, ratio };
}

/** Draws a path twice, light beneath and coloured above, so that it is seen on any ground. */
export function outlined(ctx: CanvasRenderingContext2D, path: () => void, colour: string, width = 1.2): void {
  for (const [stroke, thick] of [
    ['rgb(255 255 255 / 90%)', width + 1.8],
    [colour, width],
  ] as const) {
    ctx.strokeStyle = stroke;
    ctx.lineWidth = thick;
    ctx.beginPath();
    path();
    ctx.stroke();
  }
}

/** The cross in the middle of a view, where keys act. */
export function drawCross(
  ctx: CanvasRenderingContext2D,
  x: number,
  y: number,
  arm = 12,
  colour: string = theme.ink,
): void {
  outlined(
    ctx,
    () => {
      ctx.moveTo(x - arm, y);
      ctx.lineTo(x + arm, y);
      ctx.moveTo(x, y - arm);
      ctx.lineTo(x, y + arm);
    },
    colour,
  );
}
