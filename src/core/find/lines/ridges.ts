import { blur } from '../../raster/planes.ts';
import type { Point } from '../../mask/shapes.ts';
import { noiseLevel, type Plane } from '../../raster/luma.ts';

/** A thin line found in a picture, as it runs. */
export interface Ridge {
  points: Point[];
  /** lighter than its ground, or darker */
  light: boolean;
  /** mean strength of the ridge response, levels of 255 */
  strength: number;
}

/** Options of {@link findRidges}. */
export interface RidgeOptions {
  /** standard deviation in px of the blur under which the line is looked for; about half its width */
  sigma: number;
  /** least length of a piece in px. Default 12. */
  least?: number;
  /** response in levels from which a line may start; it goes on down to half of that */
  start?: number;
}

const STEPS: ReadonlyArray<readonly [number, number]> = [
  [1, 0],
  [1, 1],
  [0, 1],
  [-1, 1],
];

/**
 * Lines thinner than their surroundings are even: crests of the second derivative across, linked along.
 * Source: after Steger, "An Unbiased Detector of Curvilinear Structures", 1998 (Hessian of a Gaussian, crest where the
 * slope across passes zero within the pixel, linking by hysteresis).
 */
export function findRidges(plane: Plane, options: RidgeOptions): Ridge[] {
  const { width, height } = plane;
  const { sigma, least = 12 } = options;
  const soft = blur(plane.data, width, height, sigma);
  const start = options.start ?? Math.max(5, (4 * noiseLevel(plane)) / Math.max(1, sigma));
  const low = start / 2;
  // Response in levels: scale-normalised second derivative of a bar of height 1 at its best sigma is about 0.45.
  const gain = (sigma * sigma) / 0.45;
  const strength = new Float32Array(width * height);
  const along = new Uint8Array(width * height);
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const c = soft[i];
      const xx = soft[i + 1] + soft[i - 1] - 2 * c;
      const yy = soft[i + width] + soft[i - width] - 2 * c;
      const xy = (soft[i + width + 1] + soft[i - width - 1] - soft[i + width - 1] - soft[i - width + 1]) / 4;
      const half = (xx - yy) / 2;
      const root = Math.sqrt(half * half + xy * xy);
      const mid = (xx + yy) / 2;
      const big = mid > 0 ? mid + root : mid - root;
      const small = mid > 0 ? mid - root : mid + root;
      const size = (Math.abs(big) - Math.max(0, small * Math.sign(big))) * gain;
      if (size < low) continue;
      // Direction across: eigenvector of the larger curvature.
      const angle = 0.5 * Math.atan2(2 * xy, xx - yy) + (mid > 0 ? 0 : Math.PI / 2);
      const nx = Math.cos(angle);
      const ny = Math.sin(angle);
      const gx = (soft[i + 1] - soft[i - 1]) / 2;
      const gy = (soft[i + width] - soft[i - width]) / 2;
      const t = -(gx * nx + gy * ny) / (xx * nx * nx + 2 * xy * nx * ny + yy * ny * ny || 1e-9);
      if (Math.abs(t * nx) > 0.6 || Math.abs(t * ny) > 0.6) continue;
      strength[i] = big < 0 ? size : -size;
      // Along the line, in eighths of half a turn.
      along[i] = Math.round(((angle + Math.PI / 2) / Math.PI) * 8 + 16) % 8;
    }
  }
  return link(strength, along, width, height, start, low, least);
}

/** Most pixels a plane may have for {@link strongestFirst}. */
const PLACES = 2 ** 29;

/** Places from `start` levels on, the strongest first, of equal ones the first first. Sorted as numbers, which is fast. */
function strongestFirst(strength: Float32Array, start: number): Float64Array {
  let n = 0;
  for (let i = 0; i < strength.length; i++) if (strength[i] >= start || strength[i] <= -start) n++;
  const keys = new Float64Array(n);
  n = 0;
  // Strength to a 16,384th of a level above, the place below.
  for (let i = 0; i < strength.length; i++)
    if (strength[i] >= start || strength[i] <= -start)
      keys[n++] = Math.round(-16_384 * Math.abs(strength[i])) * PLACES + i;
  keys.sort();
  return keys.map((key) => key - Math.floor(key / PLACES) * PLACES);
}

function link(
  strength: Float32Array,
  along: Uint8Array,
  width: number,
  height: number,
  start: number,
  low: number,
  least: number,
): Ridge[] {
  const used = new Uint8Array(width * height);
  const out: Ridge[] = [];
  const walk = (from: number, forward: boolean, light: boolean): number[] => {
    const path: number[] = [];
    let at = from;
    let d = along[from] + (forward ? 0 : 8);
    for (;;) {
      const x = at % width;
      const y = (at - x) / width;
      let best = -1;
      let value = -Infinity;
      let turn = 0;
      const eighth = Math.round(d / 2) % 8;
      for (const t of [0, -1, 1]) {
        const k = (eighth + t + 8) % 8;
        const sign = k >= 4 ? -1 : 1;
        const [sx, sy] = STEPS[k % 4];
        const u = x + sign * sx;
        const v = y + sign * sy;
        if (u < 1 || v < 1 || u >= width - 1 || v >= height - 1) continue;
        const j = v * width + u;
        const s = light ? strength[j] : -strength[j];
        if (used[j] || s < low) continue;
        // Lines turn little from pixel to pixel.
        let difference = (along[j] - d + 32) % 8;
        if (difference > 4) difference -= 8;
        if (Math.abs(difference) > 2) continue;
        const worth = s - 0.15 * s * Math.abs(difference) - (t ? 0.05 * s : 0);
        if (worth > value) {
          value = worth;
          best = j;
          turn = difference;
        }
      }
      if (best < 0) return path;
      used[best] = 1;
      path.push(best);
      at = best;
      d = (d + turn + 16) % 16;
    }
  };
  for (const seed of strongestFirst(strength, start)) {
    if (used[seed]) continue;
    used[seed] = 1;
    const light = strength[seed] > 0;
    const path = [...walk(seed, false, light).reverse(), seed, ...walk(seed, true, light)];
    if (path.length < least) continue;
    let sum = 0;
    for (const i of path) sum += Math.abs(strength[i]);
    out.push({
      light,
      strength: sum / path.length,
      points: path.map((i) => [(i % width) + 0.5, Math.floor(i / width) + 0.5]),
    });
  }
  return out;
}

/** Length of a line, px. */
export const lengthOf = (points: readonly Point[]): number =>
  points.reduce((s, p, i) => (i ? s + Math.hypot(p[0] - points[i - 1][0], p[1] - points[i - 1][1]) : 0), 0);

function heading(points: readonly Point[], end: 0 | 1): Point {
  const n = points.length;
  const k = Math.min(n - 1, 14);
  const [a, b] = end ? [points[n - 1 - k], points[n - 1]] : [points[k], points[0]];
  const d = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  return [(b[0] - a[0]) / d, (b[1] - a[1]) / d];
}

/** px below which a piece looks for no continuation of its own. */
const SCRAP = 14;

/** Joins pieces that go on where another ends: same sign, about the same direction, over gaps up to a share of their length. */
export function joinRidges(pieces: Ridge[], most = 40): Ridge[] {
  const list = pieces.slice().sort((a, b) => b.points.length - a.points.length);
  const cell = 32;
  const key = (p: Point) => Math.floor(p[0] / cell) * 100_003 + Math.floor(p[1] / cell);
  const ends = new Map<number, Array<{ ridge: number; end: 0 | 1 }>>();
  const enter = (n: number) => {
    for (const end of [0, 1] as const) {
      const p = list[n].points[end ? list[n].points.length - 1 : 0];
      const k = key(p);
      const there = ends.get(k);
      if (there) there.push({ ridge: n, end });
      else ends.set(k, [{ ridge: n, end }]);
    }
  };
  list.forEach((_, n) => enter(n));
  const gone = new Uint8Array(list.length);
  for (let n = 0; n < list.length; n++) {
    // Scraps are joined to what is longer, never to each other.
    if (gone[n] || list[n].points.length < SCRAP) continue;
    for (const end of [1, 0] as const) {
      for (let grown = true; grown;) {
        grown = false;
        const mine = list[n];
        const tip = mine.points[end ? mine.points.length - 1 : 0];
        const [hx, hy] = heading(mine.points, end);
        const gapMost = Math.min(most, 6 + 0.25 * mine.points.length);
        let best = -1;
        let bestEnd: 0 | 1 = 0;
        let cost = Infinity;
        const cells = gapMost > cell ? 2 : 1;
        for (let v = -cells; v <= cells; v++) {
          for (let u = -cells; u <= cells; u++) {
            for (const other of ends.get(key([tip[0] + u * cell, tip[1] + v * cell])) ?? []) {
              if (other.ridge === n || gone[other.ridge] || list[other.ridge].light !== mine.light) continue;
              const theirs = list[other.ridge].points;
              const p = theirs[other.end ? theirs.length - 1 : 0];
              const dx = p[0] - tip[0];
              const dy = p[1] - tip[1];
              const gap = Math.hypot(dx, dy);
              if (gap > gapMost) continue;
              const ahead = dx * hx + dy * hy;
              const aside = Math.abs(dx * hy - dy * hx);
              if (ahead < -2 || aside > 1.5 + 0.2 * gap) continue;
              const [ox, oy] = heading(theirs, other.end);
              const turn = ox * hx + oy * hy;
              if (turn > -0.85) continue;
              const c = gap + 3 * aside + 20 * (1 + turn);
              if (c < cost) {
                cost = c;
                best = other.ridge;
                bestEnd = other.end;
              }
            }
          }
        }
        if (best < 0) break;
        const theirs = bestEnd === 0 ? list[best].points : list[best].points.slice().reverse();
        const a = mine.points.length;
        const b = theirs.length;
        mine.strength = (mine.strength * a + list[best].strength * b) / (a + b);
        mine.points = end ? [...mine.points, ...theirs] : [...theirs.slice().reverse(), ...mine.points];
        gone[best] = 1;
        grown = true;
      }
    }
  }
  return list.filter((_, n) => !gone[n]);
}
