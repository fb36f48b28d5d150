import type { Point, Shape } from '../../../mask/shapes.ts';
import type { Box } from '../../../raster/raster.ts';
import type { FillSpec } from '../../spec.ts';
import type { Level } from '../layout/levels.ts';
import type { GroundMasks } from './division.ts';
import { TONE_LANES, toneOfLevel } from './ring.ts';

/** What somebody says about a cover: edges that run on inside it, and grounds that reach into it. In px of a picture or a part of it. */
export interface Guides {
  edges: Point[][];
  /** each begins on the ground that is to reach where it leads, `size` px wide */
  grounds: Array<{ points: Point[]; size: number }>;
}

/** Guides seen from another origin, and reduced. */
export const guidesFrom = ({ edges, grounds }: Guides, x: number, y: number, by = 1): Guides => {
  const moved = (points: Point[]) => points.map(([px, py]): Point => [(px - x) / by, (py - y) / by]);
  return { edges: edges.map(moved), grounds: grounds.map((g) => ({ points: moved(g.points), size: g.size / by })) };
};

/** What a spec says about edges and grounds, seen from a frame. */
export function guidesOf({ edges = [], grounds = [] }: FillSpec, { x, y }: Box): Guides | undefined {
  const lines = (shapes: Shape[]) => shapes.flatMap((s) => (s.kind === 'brush' || s.kind === 'strand' ? [s] : []));
  if (!edges.length && !grounds.length) return undefined;
  return guidesFrom({ edges: lines(edges).map((s) => s.points), grounds: lines(grounds) }, x, y);
}

/** px beyond every picture. */
const FAR = 1e5;

/** A drawn edge, which runs on straight beyond its ends. */
export class Edge {
  private readonly points: Point[];

  constructor(drawn: readonly Point[]) {
    const points = simplified(drawn);
    const beyond = ([ax, ay]: Point, [bx, by]: Point): Point => {
      const length = Math.hypot(bx - ax, by - ay) || 1;
      return [bx + ((bx - ax) / length) * FAR, by + ((by - ay) / length) * FAR];
    };
    this.points = [
      beyond(points[1], points[0]),
      ...points,
      beyond(points[points.length - 2], points[points.length - 1]),
    ];
  }

  /** Distance of a place in px, negative on the left of the direction in which it was drawn. */
  distance(x: number, y: number): number {
    let nearest = Infinity;
    let side = 1;
    for (let n = 1; n < this.points.length; n++) {
      const [ax, ay] = this.points[n - 1];
      const [bx, by] = this.points[n];
      const [dx, dy] = [bx - ax, by - ay];
      const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
      const d = Math.hypot(x - ax - t * dx, y - ay - t * dy);
      if (d > nearest + 1e-6) continue;
      // At a corner the piece that the place lies more beside decides.
      const cross = ((y - ay) * dx - (x - ax) * dy) / (Math.hypot(dx, dy) || 1);
      if (d < nearest - 1e-6 || Math.abs(cross) > Math.abs(side)) side = cross;
      nearest = d;
    }
    return side < 0 ? -nearest : nearest;
  }
}

/** Leaves out points that lie within half a px of the line through the others (Douglas & Peucker 1973). */
function simplified(points: readonly Point[]): Point[] {
  if (points.length < 3) return points.slice();
  const [a, b] = [points[0], points[points.length - 1]];
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const length = Math.hypot(dx, dy);
  let [most, at] = [0, 0];
  for (let n = 1; n + 1 < points.length; n++) {
    const [x, y] = [points[n][0] - a[0], points[n][1] - a[1]];
    const off = length ? Math.abs(x * dy - y * dx) / length : Math.hypot(x, y);
    if (off > most) [most, at] = [off, n];
  }
  if (most <= 0.5) return [a, b];
  return [...simplified(points.slice(0, at + 1)), ...simplified(points.slice(at)).slice(1)];
}

/** A part of a cover that is filled from one side of the edges, or from one ground. */
export interface GuidedPart {
  masks: GroundMasks;
  /** how much of it counts at a place, 0 to 1; what is laid first counts wholly */
  share(x: number, y: number): number;
}

/** px over which one side goes over into the other. */
const SOFT = 1;
/** Covered px that both sides of an edge fill, so that one can go over into the other. */
const OVERLAP = 2;

/** The sides of drawn edges: each fills its part of the cover from what lies on its own side. */
export function sidesOf(drawn: readonly Point[][], level: Level): GuidedPart[] {
  const edges = drawn.filter((points) => points.length > 1).map((points) => new Edge(points));
  const { width, height, cover, known, allowed } = level;
  const names = new Map<number, number>();
  const parts: GuidedPart[] = [];
  const nameAt = (distances: readonly number[]) => distances.reduce((name, d, k) => name | (d < 0 ? 1 << k : 0), 0);
  const partOf = (name: number): GuidedPart => {
    const found = names.get(name);
    if (found !== undefined) return parts[found];
    names.set(name, parts.length);
    const plane = () => new Uint8Array(width * height);
    const share = (x: number, y: number) => {
      let least = Infinity;
      const distances = edges.map((e) => e.distance(x, y));
      for (const d of distances) least = Math.min(least, Math.abs(d));
      const own = nameAt(distances) === name;
      return least >= SOFT ? Number(own) : own ? 0.5 + least / (2 * SOFT) : 0.5 - least / (2 * SOFT);
    };
    const part: GuidedPart = { masks: { cover: plane(), known: plane(), allowed: plane() }, share };
    parts.push(part);
    return part;
  };
  const distances = edges.map(() => 0);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (!cover[i] && !known[i]) continue;
      edges.forEach((e, k) => (distances[k] = e.distance(x + 0.5, y + 0.5)));
      const name = nameAt(distances);
      const { masks } = partOf(name);
      if (cover[i]) {
        masks.cover[i] = 1;
        distances.forEach((d, k) => {
          if (Math.abs(d) < OVERLAP) partOf(name ^ (1 << k)).masks.cover[i] = 1;
        });
      } else if (distances.every((d) => Math.abs(d) >= OVERLAP)) {
        // What lies on a drawn edge belongs to neither side.
        masks.known[i] = 1;
        masks.allowed[i] = allowed[i];
      }
    }
  }
  return parts;
}

/** Difference in tone up to which a place is of the ground that a stroke begins on. */
const ALIKE = 40;

/** What a stroke covers, from the ground that it begins on. Null where it begins on nothing that is known. */
export function draggedGround(
  { points, size }: Guides['grounds'][number],
  levels: readonly Level[],
  at: number,
): GuidedPart | null {
  const [level, coarse] = [levels[0], levels[at]];
  const { width, height } = level;
  const radius = size / 2;
  const tones = toneOfLevel(coarse);
  const start = startOf(points, coarse, 2 ** at);
  if (start < 0) return null;
  const off = (i: number) => {
    let sum = 0;
    for (let c = 0; c < TONE_LANES; c++) sum += (tones[i * TONE_LANES + c] - tones[start * TONE_LANES + c]) ** 2;
    return Math.sqrt(sum);
  };
  const alike = Uint8Array.from({ length: coarse.width * coarse.height }, (_, i) => (off(i) <= ALIKE ? 1 : 0));
  const beside = (x: number, y: number) => {
    let nearest = Infinity;
    for (let n = 0; n < points.length; n++) {
      const [ax, ay] = points[Math.max(0, n - 1)];
      const [dx, dy] = [points[n][0] - ax, points[n][1] - ay];
      const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
      nearest = Math.min(nearest, Math.hypot(x - ax - t * dx, y - ay - t * dy));
    }
    return nearest;
  };
  const plane = () => new Uint8Array(width * height);
  const masks: GroundMasks = { cover: plane(), known: plane(), allowed: plane() };
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (level.cover[i]) masks.cover[i] = beside(x + 0.5, y + 0.5) < radius + SOFT ? 1 : 0;
      else if (level.known[i] && alike[(y >> at) * coarse.width + (x >> at)]) {
        masks.known[i] = 1;
        masks.allowed[i] = level.allowed[i];
      }
    }
  }
  return {
    masks,
    share: (x, y) => Math.min(1, Math.max(0, 0.5 + (radius - beside(x, y)) / (2 * SOFT))),
  };
}

/** The first place of a stroke that is known, as a pixel of a level; −1 where there is none. */
function startOf(points: readonly Point[], { width, height, known }: Level, scale: number): number {
  for (const [px, py] of points) {
    const x = Math.floor(px / scale);
    const y = Math.floor(py / scale);
    if (x >= 0 && y >= 0 && x < width && y < height && known[y * width + x]) return y * width + x;
  }
  return -1;
}
