import { intersect, isEmpty, union, type Box } from '../raster/raster.ts';

/** A place of a stroke in px (pixel centres at .5) and the pen's pressure there, 0…1; a mouse has 1. */
export type StrokePoint = [x: number, y: number, pressure: number];

/** One pass of a brush: a row of dabs along a path. */
export interface Stroke {
  points: StrokePoint[];
  /** px across at full pressure */
  size: number;
  /** 0…1: the share of the radius that is covered evenly before the edge falls off */
  hardness: number;
  /** 0…1: what one dab covers; n dabs in one place cover 1 − (1 − flow)ⁿ */
  flow: number;
  /** 0…1: the most that this stroke covers, however many dabs fall in one place */
  opacity: number;
  /** distance between dabs as a share of the size */
  spacing: number;
  /** what the pen's pressure drives */
  pressure: 'none' | 'size' | 'flow';
  /** px run since the last dab, where this stroke continues another; without it a dab is set at the start */
  phase?: number;
}

/** How a brush is set, apart from where it goes. */
export type Brush = Omit<Stroke, 'points' | 'phase'>;

/** One dab: a round spot with a soft edge. */
export interface Dab {
  x: number;
  y: number;
  radius: number;
  hardness: number;
  flow: number;
}

/** Distance of the dabs of a stroke, px; never under half a pixel. */
export const dabStep = (stroke: Pick<Stroke, 'size' | 'spacing'>): number =>
  Math.max(0.5, stroke.size * stroke.spacing);

/**
 * Sets the dabs of a stroke one after another as its points come in, at equal distances along the path. Pressure is
 * taken linearly between points.
 */
export class DabWalker {
  private last: StrokePoint | undefined;
  private since: number;
  private readonly step: number;

  constructor(private readonly stroke: Omit<Stroke, 'points'>) {
    this.step = dabStep(stroke);
    this.since = stroke.phase ?? this.step;
  }

  /** px run since the last dab: what a stroke that continues this one starts with. */
  get phase(): number {
    return this.since;
  }

  /** The dabs that the path to the next point brings. */
  to(point: StrokePoint): Dab[] {
    const out: Dab[] = [];
    const from = this.last ?? point;
    if (!this.last && this.since >= this.step) {
      out.push(this.dab(point));
      this.since = 0;
    }
    this.last = point;
    const [dx, dy, dp] = [point[0] - from[0], point[1] - from[1], point[2] - from[2]];
    const length = Math.sqrt(dx * dx + dy * dy);
    let run = this.step - this.since;
    while (run <= length && length > 0) {
      const t = run / length;
      out.push(this.dab([from[0] + t * dx, from[1] + t * dy, from[2] + t * dp]));
      run += this.step;
    }
    this.since = length - (run - this.step);
    return out;
  }

  private dab([x, y, pressure]: StrokePoint): Dab {
    const { size, hardness, flow, pressure: drives } = this.stroke;
    const p = Math.min(1, Math.max(0.02, pressure));
    return {
      x,
      y,
      radius: (drives === 'size' ? size * p : size) / 2,
      hardness,
      flow: drives === 'flow' ? flow * p : flow,
    };
  }
}

/** All dabs of a stroke. */
export function dabsOf(stroke: Stroke): Dab[] {
  const walker = new DabWalker(stroke);
  return stroke.points.flatMap((p) => walker.to(p));
}

/** Box of whole pixels that a dab may touch. */
export function boundsOfDab({ x, y, radius }: Dab): Box {
  const r = radius + 0.5;
  const x0 = Math.floor(x - r);
  const y0 = Math.floor(y - r);
  return { x: x0, y: y0, width: Math.ceil(x + r) - x0, height: Math.ceil(y + r) - y0 };
}

const known = new WeakMap<Stroke, Box>();

/** Box of whole pixels that one stroke may touch, worked out once. */
function boundsOfStroke(stroke: Stroke): Box {
  let box = known.get(stroke);
  if (box) return box;
  const r = stroke.size / 2 + 1;
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of stroke.points) {
    left = Math.min(left, Math.floor(x - r));
    top = Math.min(top, Math.floor(y - r));
    right = Math.max(right, Math.ceil(x + r));
    bottom = Math.max(bottom, Math.ceil(y + r));
  }
  box = { x: left, y: top, width: right - left, height: bottom - top };
  known.set(stroke, box);
  return box;
}

/** Box around strokes, cut to the picture; empty when they lie outside of it. */
export const boundsOfStrokes = (strokes: readonly Stroke[], width: number, height: number): Box =>
  strokesWithin(strokes, { x: 0, y: 0, width, height });

/** The same in an area of the picture. */
export function strokesWithin(strokes: readonly Stroke[], area: Box): Box {
  let box: Box = { x: 0, y: 0, width: 0, height: 0 };
  for (const s of strokes) box = union(box, boundsOfStroke(s));
  return isEmpty(box) ? box : intersect(box, area);
}

/** Strokes moved by so many px. */
export const shiftStrokes = (strokes: readonly Stroke[], dx: number, dy: number): Stroke[] =>
  strokes.map((stroke) => ({
    ...stroke,
    points: stroke.points.map(([x, y, pressure]): StrokePoint => [x + dx, y + dy, pressure]),
  }));

/**
 * What a dab covers at a distance from its middle, before flow: 1 inside the hard core, a smooth fall to 0 at the rim; a rim
 * of one pixel at least, so that the hardest brush has no steps.
 */
export function dabProfile(distance: number, radius: number, hardness: number): number {
  const outer = radius + 0.5;
  const inner = Math.max(0, Math.min(radius * hardness, radius - 0.5));
  if (distance <= inner) return 1;
  if (distance >= outer) return 0;
  const t = (distance - inner) / (outer - inner);
  return 1 - t * t * (3 - 2 * t);
}

/** Adds a dab to a plane of coverage over `frame`: a ← a + (1 − a) · flow · profile. Returns the box it touched. */
export function stampDab(plane: Float32Array, frame: Box, dab: Dab): Box {
  const box = intersect(boundsOfDab(dab), frame);
  if (isEmpty(box)) return box;
  const outer = dab.radius + 0.5;
  // Inside the hard core the profile is 1: no root has to be taken there.
  const inner = Math.max(0, Math.min(dab.radius * dab.hardness, dab.radius - 0.5));
  for (let y = box.y; y < box.y + box.height; y++) {
    const dy = y + 0.5 - dab.y;
    let i = (y - frame.y) * frame.width + box.x - frame.x;
    for (let x = box.x; x < box.x + box.width; x++, i++) {
      const dx = x + 0.5 - dab.x;
      const d2 = dx * dx + dy * dy;
      if (d2 >= outer * outer) continue;
      const profile = d2 <= inner * inner ? 1 : dabProfile(Math.sqrt(d2), dab.radius, dab.hardness);
      plane[i] += (1 - plane[i]) * dab.flow * profile;
    }
  }
  return box;
}

/** Coverage of one stroke over `frame`, 0…1 a pixel, its opacity applied. */
export function strokeCoverage(stroke: Stroke, frame: Box): Float32Array {
  const plane = new Float32Array(frame.width * frame.height);
  for (const dab of dabsOf(stroke)) stampDab(plane, frame, dab);
  if (stroke.opacity < 1) for (let i = 0; i < plane.length; i++) plane[i] *= stroke.opacity;
  return plane;
}

/** Lays the coverage of a stroke over that of earlier ones, in place: a ← a + (1 − a) · b. */
export function layCoverage(under: Float32Array, over: Float32Array): void {
  for (let i = 0; i < under.length; i++) if (over[i] > 0) under[i] += (1 - under[i]) * over[i];
}

/**
 * Visits the pixels of `frame` that a stroke covers, with its {@link strokeCoverage} there; worked out only where the stroke goes.
 * @param visit gets the index of a pixel within `frame` and its coverage, above 0
 */
export function visitStroke(stroke: Stroke, frame: Box, visit: (index: number, coverage: number) => void): void {
  const box = intersect(boundsOfStroke(stroke), frame);
  if (isEmpty(box)) return;
  const own = strokeCoverage(stroke, box);
  for (let y = 0, i = 0; y < box.height; y++) {
    let o = (box.y + y - frame.y) * frame.width + box.x - frame.x;
    for (let x = 0; x < box.width; x++, i++, o++) if (own[i] > 0) visit(o, own[i]);
  }
}

/** Lays the coverage of a stroke over that of earlier ones on a plane over `frame`, in place. */
export function layStroke(under: Float32Array, frame: Box, stroke: Stroke): void {
  visitStroke(stroke, frame, (i, over) => {
    under[i] += (1 - under[i]) * over;
  });
}

/** Coverage of strokes one over another. Strokes of one repair, each at most fully covering, build up to full cover. */
export function coverageOf(strokes: readonly Stroke[], frame: Box): Float32Array {
  const out = new Float32Array(frame.width * frame.height);
  for (const stroke of strokes) layStroke(out, frame, stroke);
  return out;
}

/**
 * Divides a stroke at one of its points into two that set the same dabs.
 * @param at index of the point at which the first part ends and the second begins
 */
export function splitStroke(stroke: Stroke, at: number): [Stroke, Stroke] {
  const walker = new DabWalker(stroke);
  for (const p of stroke.points.slice(0, at + 1)) walker.to(p);
  return [
    { ...stroke, points: stroke.points.slice(0, at + 1) },
    { ...stroke, points: stroke.points.slice(at), phase: walker.phase },
  ];
}
