import { boundsOf } from '../../../mask/mask.ts';
import { autocorrelations } from '../../../raster/fourier.ts';
import type { Level } from '../layout/levels.ts';

/**
 * A plane seen in perspective: places (X, Y) from its middle, px of level 0 of the window, lie at (X, Y) / (1 + g X + h Y) when it is
 * seen from the front, up to a map that keeps parallels parallel.
 */
export interface Plane {
  middle: [number, number];
  g: number;
  h: number;
}

/** Where a place of the window lies on the plane seen from the front; false where it is too near its horizon. */
export function toFront({ middle, g, h }: Plane, x: number, y: number, out: Float64Array): boolean {
  const X = x - middle[0];
  const Y = y - middle[1];
  const w = 1 + g * X + h * Y;
  if (w < 0.35 || w > 3) return false;
  out[0] = middle[0] + X / w;
  out[1] = middle[1] + Y / w;
  return true;
}

/** The place of the window that lies at a place of the plane seen from the front. */
export function fromFront({ middle, g, h }: Plane, x: number, y: number, out: Float64Array): boolean {
  return toFront({ middle, g: -g, h: -h }, x, y, out);
}

/** Side of the square in which regularity is measured. */
const SIDE = 128;
/** Least and most length of a repeat in it. */
const REPEAT: [number, number] = [5, 50];
/** Greatest slant looked at: the change of scale from the middle to the edge of what is looked at. */
const SLANT = 0.45;
/** How much more regular a slanted plane must be than a flat one, and how regular at all. */
const GAIN = 1.12;
/** Regularity, as it is seen, from which on a slant is looked for, and from which on no more. */
const WORTH = 0.3;
const STRAIGHT = 1.5;
/** Regularity from which on structure counts as regular. */
export const REGULAR = 0.9;

/** How regular what is around a cover is: 0 to 2, and the plane it lies in; null where that is seen from the front. */
export interface Seen {
  regularity: number;
  plane: Plane | null;
}

/**
 * Finds the slant of the plane whose structure repeats around a cover: seen from the front its autocorrelation has the highest
 * peaks.
 *
 * @param levels from the finest on
 * Source: rectification by what repeats, after Liebowitz & Zisserman 1998 in spirit; measure and search are own work.
 */
export function findPlane(levels: readonly Level[]): Seen {
  const fine = levels[0];
  const bounds = boundsOf({ x: 0, y: 0, width: fine.width, height: fine.height, data: fine.cover });
  const middle: [number, number] = [bounds.x + bounds.width / 2, bounds.y + bounds.height / 2];
  // Half the side of what is looked at, px of level 0.
  const reach = Math.min(1.5 * Math.max(bounds.width, bounds.height), Math.max(fine.width, fine.height) / 2);
  let at = 0;
  while (at + 1 < levels.length && (2 * reach) / 2 ** (at + 1) >= SIDE) at++;
  const level = levels[at];
  const values = highPass(level);
  const regularity = (g: number, h: number) =>
    measure(level, 2 ** at, values, { middle, g: g / reach, h: h / reach }, reach);
  let best = { g: 0, h: 0, score: regularity(0, 0) };
  const flat = best.score;
  let step = SLANT / 3;
  // What is highly regular as it is seen is not looked at from the side, nor what hardly is from anywhere.
  const steps = flat > WORTH && flat < STRAIGHT ? 3 : 0;
  for (let i = -steps; i <= steps; i++)
    for (let j = -steps; j <= steps; j++) {
      if (!i && !j) continue;
      const score = regularity(i * step, j * step);
      if (score > best.score) best = { g: i * step, h: j * step, score };
    }
  for (let round = 0; steps && round < 4; round++) {
    step /= 2;
    const from = best;
    for (let i = -1; i <= 1; i++)
      for (let j = -1; j <= 1; j++) {
        if (!i && !j) continue;
        const [g, h] = [from.g + i * step, from.h + j * step];
        const score = regularity(g, h);
        if (score > best.score) best = { g, h, score };
      }
  }
  const slanted = best.score >= REGULAR && best.score >= GAIN * flat;
  return { regularity: best.score, plane: slanted ? { middle, g: best.g / reach, h: best.h / reach } : null };
}

/** Luma less its mean over 9 × 9 known pixels; 0 where unknown. */
function highPass({ width, height, pixels, known }: Level): Float32Array {
  const n = width * height;
  const luma = new Float32Array(n);
  for (let i = 0; i < n; i++)
    luma[i] = known[i] ? 0.3 * pixels[4 * i] + 0.59 * pixels[4 * i + 1] + 0.11 * pixels[4 * i + 2] : 0;
  const soft = meanOfKnown(luma, known, width, height);
  for (let i = 0; i < n; i++) luma[i] = known[i] ? luma[i] - soft[i] : 0;
  return luma;
}

function meanOfKnown(luma: Float32Array, known: Uint8Array, width: number, height: number): Float32Array {
  const r = 4;
  const sums = new Float64Array((width + 1) * (height + 1));
  const counts = new Float64Array((width + 1) * (height + 1));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const o = (y + 1) * (width + 1) + x + 1;
      sums[o] = luma[y * width + x] + sums[o - 1] + sums[o - width - 1] - sums[o - width - 2];
      counts[o] = known[y * width + x] + counts[o - 1] + counts[o - width - 1] - counts[o - width - 2];
    }
  const out = new Float32Array(luma.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [x0, y0, x1, y1] = [
        Math.max(0, x - r),
        Math.max(0, y - r),
        Math.min(width, x + r + 1),
        Math.min(height, y + r + 1),
      ];
      const of = (s: Float64Array) =>
        s[y1 * (width + 1) + x1] - s[y0 * (width + 1) + x1] - s[y1 * (width + 1) + x0] + s[y0 * (width + 1) + x0];
      const n = of(counts);
      out[y * width + x] = n ? of(sums) / n : 0;
    }
  return out;
}

/** How regular what is around the cover is, seen from the front: its highest two peaks of autocorrelation, in different directions. */
function measure(level: Level, scale: number, values: Float32Array, plane: Plane, reach: number): number {
  const grid = new Float32Array(SIDE * SIDE);
  const mask = new Float32Array(SIDE * SIDE);
  const place = new Float64Array(2);
  for (let v = 0, o = 0; v < SIDE; v++) {
    const fy = plane.middle[1] + ((v + 0.5) / SIDE - 0.5) * 2 * reach;
    for (let u = 0; u < SIDE; u++, o++) {
      const fx = plane.middle[0] + ((u + 0.5) / SIDE - 0.5) * 2 * reach;
      if (!fromFront(plane, fx, fy, place)) continue;
      const x = place[0] / scale - 0.5;
      const y = place[1] / scale - 0.5;
      const x0 = Math.floor(x);
      const y0 = Math.floor(y);
      if (x0 < 0 || y0 < 0 || x0 + 1 >= level.width || y0 + 1 >= level.height) continue;
      const i = y0 * level.width + x0;
      if (!level.known[i] || !level.known[i + 1] || !level.known[i + level.width] || !level.known[i + level.width + 1])
        continue;
      const [a, b] = [x - x0, y - y0];
      const upper = values[i] * (1 - a) + values[i + 1] * a;
      const lower = values[i + level.width] * (1 - a) + values[i + level.width + 1] * a;
      // A few strong places must not outweigh all others.
      grid[o] = Math.max(-40, Math.min(40, upper * (1 - b) + lower * b));
      mask[o] = 1;
    }
  }
  // What the mask itself correlates by corrects for how much of it is seen at each lag.
  const [both, seen] = autocorrelations(grid, mask, SIDE);
  const own = both[0] / Math.max(1, seen[0]);
  const least = 0.25 * seen[0];
  const at = (x: number, y: number) => {
    const i = ((y + SIDE) % SIDE) * SIDE + ((x + SIDE) % SIDE);
    return seen[i] > least ? both[i] / seen[i] / own : 0;
  };
  const peaks: Array<{ x: number; y: number; value: number }> = [];
  for (let y = 0; y <= REPEAT[1]; y++) {
    for (let x = -REPEAT[1]; x <= REPEAT[1]; x++) {
      const far = Math.hypot(x, y);
      if (far < REPEAT[0] || far > REPEAT[1] || (y === 0 && x < 0)) continue;
      const value = at(x, y);
      if (value < 0.1) continue;
      if (value < at(x + 1, y) || value < at(x - 1, y) || value < at(x, y + 1) || value < at(x, y - 1)) continue;
      peaks.push({ x, y, value });
    }
  }
  peaks.sort((a, b) => b.value - a.value);
  if (!peaks.length) return 0;
  const [first] = peaks;
  const second = peaks.find(
    (p) => Math.abs(p.x * first.y - p.y * first.x) > 0.35 * Math.hypot(p.x, p.y) * Math.hypot(first.x, first.y),
  );
  return first.value + (second?.value ?? 0);
}
