import { quantile } from '../../raster/luma.ts';
import { blur } from '../../raster/planes.ts';
import type { Box } from '../../raster/raster.ts';
import type { Sign } from '../finding.ts';
import { inPicture, type Place } from '../place.ts';

/** Blurs between which what stands out is looked for, px. */
const FINE = 1.2;
const COARSE = 4;
/** px around a place in which nothing stands out more, and levels by which it does at least. */
const ALONE = 4;
const STANDS = 2;
/** px of a window up to which repeats are looked for. */
const MOST_PX = 4e6;
/** Samples across a description, px between them, and its places that are compared at most. */
const ACROSS = 11;
const EVERY = 1.5;
const MOST = 160;
const MOST_AROUND = 1500;
/** Of the grain every so many px are looked at to tell how strong it is. */
const SAMPLED = 11;
/** Numbers of a description that are compared first. */
const FIRST = 33;
/** Correlation from which on descriptions are alike, and px that the two have to be apart. */
const ALIKE = 0.94;
const APART = 14;
/** px of half a side over which two places are compared closely; correlation of them, and of their grain, in a copy. */
const HALF = 7;
const SAME = 0.92;
const GRAIN = 0.66;
/** Levels of grain below which there is none to compare, and correlation that is asked for instead. */
const GRAINY = 0.5;
const GRAINLESS = 0.985;
/** What one place alone has to agree by. */
const ALONE_SAME = 0.93;
const ALONE_GRAIN = 0.78;
/** Repeats that are told of one place, at most. */
const TOLD = 3;
/** px by which copies that were laid in together may differ in where they come from. */
const TOGETHER = 2.5;
/** How much more than what is usual around a copy stands out from which on it is recognised, and beyond which surely. */
const USUAL = 0.75;
const SURELY = 1.3;

/** What is around a place, of unit length around 0. */
interface Described {
  values: Float32Array;
  /** length of what comes after the first numbers, squared */
  rest: number;
}

interface Spot {
  x: number;
  y: number;
  /** by how many levels it stands out */
  stands: number;
  /** as it is, and mirrored across */
  description: Described;
  mirrored?: Described;
}

interface Planes {
  width: number;
  height: number;
  luma: Float32Array;
  soft: Float32Array;
  /** what stands out: between both blurs */
  between: Float32Array;
}

/** Places that stand out from what is around them. */
function spotsIn({ width, height, between, soft }: Planes, holds: (i: number) => boolean, most: number): Spot[] {
  const reach = Math.ceil((EVERY * (ACROSS - 1)) / 2) + 1;
  const found: Array<{ x: number; y: number; stands: number }> = [];
  for (let y = reach; y < height - reach; y++)
    for (let x = reach; x < width - reach; x++) {
      const i = y * width + x;
      const stands = Math.abs(between[i]);
      if (stands < STANDS || !holds(i)) continue;
      let alone = true;
      for (let v = -ALONE; v <= ALONE && alone; v++)
        for (let u = -ALONE; u <= ALONE && alone; u++) alone = Math.abs(between[i + v * width + u]) <= stands;
      if (alone) found.push({ x, y, stands });
    }
  found.sort((a, b) => b.stands - a.stands);
  return found
    .filter(({ x, y }) => isCorner(soft, width, x, y))
    .slice(0, most)
    .map((spot) => ({ ...spot, description: describe(soft, width, spot.x, spot.y, 1) }));
}

/** px around a place that tell whether it is more than a line, and how much less it may vary one way than the other. */
const CORNER = 7;
const LINE = 0.03;

/** Whether a place varies in both directions: a line looks the same all along it. Source: Harris & Stephens 1988, from memory. */
function isCorner(soft: Float32Array, width: number, x: number, y: number): boolean {
  let [xx, yy, xy] = [0, 0, 0];
  for (let v = -CORNER; v <= CORNER; v++)
    for (let u = -CORNER; u <= CORNER; u++) {
      const i = (y + v) * width + x + u;
      const dx = soft[i + 1] - soft[i - 1];
      const dy = soft[i + width] - soft[i - width];
      xx += dx * dx;
      yy += dy * dy;
      xy += dx * dy;
    }
  const half = (xx + yy) / 2;
  const apart = Math.sqrt(((xx - yy) / 2) ** 2 + xy * xy);
  return half - apart > LINE * (half + apart);
}

/** What is around a place, evened to a mean of 0 and a length of 1. */
function describe(soft: Float32Array, width: number, x: number, y: number, mirror: 1 | -1): Described {
  const out = new Float32Array(ACROSS * ACROSS);
  const half = (ACROSS - 1) / 2;
  let mean = 0;
  for (let v = 0, k = 0; v < ACROSS; v++)
    for (let u = 0; u < ACROSS; u++, k++) {
      const [px, py] = [x + mirror * EVERY * (u - half), y + EVERY * (v - half)];
      const i = Math.floor(py) * width + Math.floor(px);
      const [fx, fy] = [px - Math.floor(px), py - Math.floor(py)];
      const upper = soft[i] + (soft[i + 1] - soft[i]) * fx;
      const lower = soft[i + width] + (soft[i + width + 1] - soft[i + width]) * fx;
      out[k] = upper + (lower - upper) * fy;
      mean += out[k] / out.length;
    }
  let length = 0;
  for (let k = 0; k < out.length; k++) {
    out[k] -= mean;
    length += out[k] * out[k];
  }
  const scale = 1 / (Math.sqrt(length) || 1);
  let rest = 0;
  for (let k = 0; k < out.length; k++) {
    out[k] *= scale;
    if (k >= FIRST) rest += out[k] * out[k];
  }
  return { values: out, rest };
}

/** Whether descriptions correlate enough. What the numbers that come last can still add is bounded (Cauchy–Schwarz). */
function areAlike({ values: a, rest: one }: Described, { values: b, rest: other }: Described): boolean {
  let sum = 0;
  for (let k = 0; k < FIRST; k++) sum += a[k] * b[k];
  if (sum + Math.sqrt(one * other) < ALIKE) return false;
  for (let k = FIRST; k < a.length; k++) sum += a[k] * b[k];
  return sum >= ALIKE;
}

/** Correlation of a plane around two places; and how much it varies there, levels. */
function correlation(
  plane: Float32Array,
  { width, height }: Planes,
  [ax, ay]: [number, number],
  [bx, by]: [number, number],
  mirror: 1 | -1,
): { r: number; varies: number } {
  let [n, sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0, 0];
  for (let v = -HALF; v <= HALF; v++)
    for (let u = -HALF; u <= HALF; u++) {
      const [px, py, qx, qy] = [ax + u, ay + v, bx + mirror * u, by + v];
      if (px < 0 || py < 0 || qx < 0 || qy < 0 || px >= width || qx >= width || py >= height || qy >= height) continue;
      const [p, q] = [plane[py * width + px], plane[qy * width + qx]];
      n++;
      sa += p;
      sb += q;
      saa += p * p;
      sbb += q * q;
      sab += p * q;
    }
  if (n < HALF * HALF) return { r: 0, varies: 0 };
  const [va, vb] = [saa - (sa * sa) / n, sbb - (sb * sb) / n];
  const size = Math.sqrt(Math.max(0, va * vb));
  return { r: size > 0 ? (sab - (sa * sb) / n) / size : 0, varies: Math.sqrt(Math.min(va, vb) / n) };
}

interface Copy {
  same: number;
  grain: number;
  spot: Spot;
  x: number;
  y: number;
  mirror: 1 | -1;
}

/** Whether a place is a copy of another: alike closely, and grain by grain. Settles where exactly, within 1 px. */
function copyOf(planes: Planes, grain: Float32Array, spot: Spot, other: Spot, mirror: 1 | -1): Copy | null {
  let best: Copy | null = null;
  let most = SAME;
  for (let v = -1; v <= 1; v++)
    for (let u = -1; u <= 1; u++) {
      const [x, y] = [other.x + u, other.y + v];
      const { r } = correlation(planes.luma, planes, [spot.x, spot.y], [x, y], mirror);
      if (r > most) [best, most] = [{ spot, x, y, mirror, same: r, grain: 1 }, r];
    }
  if (!best) return null;
  const fine = correlation(grain, planes, [spot.x, spot.y], [best.x, best.y], mirror);
  // What repeats by itself, as bricks and blinds do, has other grain each time.
  if (fine.varies < GRAINY) return best.same < GRAINLESS ? null : best;
  return fine.r < GRAIN ? null : { ...best, grain: fine.r };
}

/** Copies that were laid in together: from as far away in one direction. */
function gathered(copies: readonly Copy[]): Copy[][] {
  const out: Copy[][] = [];
  for (const copy of copies) {
    const place = ({ spot, x, y, mirror }: Copy) => [mirror === 1 ? x - spot.x : x + spot.x, y - spot.y];
    const [dx, dy] = place(copy);
    const group = out.find((g) => {
      const [ex, ey] = place(g[0]);
      return g[0].mirror === copy.mirror && Math.hypot(dx - ex, dy - ey) < TOGETHER;
    });
    if (group) group.push(copy);
    else out.push([copy]);
  }
  return out;
}

const around = (places: ReadonlyArray<{ x: number; y: number }>): Box => {
  const [xs, ys] = [places.map((p) => p.x), places.map((p) => p.y)];
  const [x, y] = [Math.min(...xs) - HALF, Math.min(...ys) - HALF];
  return { x, y, width: Math.max(...xs) + HALF - x, height: Math.max(...ys) + HALF - y };
};

/**
 * The same texture twice, within a cover or in it and beside it: places that stand out and are described alike, also mirrored, and agree
 * grain by grain. How well it is recognised depends on how much it stands out from what is around.
 * Source: copy-move detection over keypoints, after Christlein et al., "An Evaluation of Popular Copy-Move Forgery Detection
 * Approaches", 2012, from memory; that natural repetition differs in its grain, own.
 */
export function repeat(place: Place): Sign[] {
  const { width, height, what, luma } = place;
  if (width * height > MOST_PX) return [];
  const soft = blur(luma, width, height, FINE);
  const coarse = blur(luma, width, height, COARSE);
  const planes: Planes = { width, height, luma, soft, between: soft.map((v, i) => v - coarse[i]) };
  if (!what.includes(1)) return [];
  const all = spotsIn(planes, (i) => what[i] !== 2, MOST_AROUND);
  const inside = all.filter(({ x, y }) => what[y * width + x] === 1).slice(0, MOST);
  if (!inside.length) return [];
  for (const spot of inside) spot.mirrored = describe(soft, width, spot.x, spot.y, -1);
  const usual = quantile(
    Float32Array.from(all, (s) => s.stands),
    0.8,
  );
  const fine = luma.map((v, i) => v - soft[i]);
  // Edges would outweigh all grain beside them.
  const some = Float32Array.from({ length: Math.ceil(fine.length / SAMPLED) }, (_, k) => Math.abs(fine[k * SAMPLED]));
  const most = 2 * Math.max(0.5, quantile(some, 0.5));
  const grain = fine.map((v) => Math.max(-most, Math.min(most, v)));
  const copies: Copy[] = [];
  for (const spot of inside)
    for (const other of all) {
      if (Math.hypot(spot.x - other.x, spot.y - other.y) < APART) continue;
      // Of two places inside one is enough.
      if (what[other.y * width + other.x] === 1 && (other.y < spot.y || (other.y === spot.y && other.x < spot.x)))
        continue;
      for (const mirror of [1, -1] as const) {
        const own = mirror === 1 ? spot.description : spot.mirrored!;
        if (!areAlike(own, other.description)) continue;
        const copy = copyOf(planes, grain, spot, other, mirror);
        if (copy) copies.push(copy);
      }
    }
  const sure = (group: Copy[]) => group.length > 1 || (group[0].same > ALONE_SAME && group[0].grain > ALONE_GRAIN);
  const told = gathered(copies)
    .filter(sure)
    .map((group): Sign => {
      const [own, source] = [around(group.map((c) => c.spot)), around(group)];
      const stands = Math.max(...group.map((c) => c.spot.stands));
      const recognised = Math.min(1, Math.max(0, (stands / usual - USUAL) / (SURELY - USUAL)));
      const { spot, x, y } = group[0];
      return {
        kind: 'repeat',
        box: inPicture(place, own),
        partner: inPicture(place, source),
        figure: Math.hypot(x - spot.x, y - spot.y),
        unit: 'px apart',
        difference: 0.4 * stands * recognised,
        across: Math.min(own.width, own.height) / 2,
        along: Math.max(own.width, own.height) / 2,
        remedy: 'other-donor',
      };
    });
  return told.sort((a, b) => b.difference - a.difference).slice(0, TOLD);
}
