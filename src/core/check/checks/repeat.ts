import { withKernels, type Kernels } from '../../kernels/memory.ts';
import { medianOf, quantile } from '../../raster/luma.ts';
import { blur } from '../../raster/planes.ts';
import { intersect, isEmpty, type Box } from '../../raster/raster.ts';
import type { Sign } from '../finding.ts';
import { inPicture, type Place } from '../place.ts';
import { HALF, Likeness } from '../likeness.ts';
import { albumOf, alikeIn, mirroredOf, spotsIn, type Spot } from '../spots.ts';

/** Blurs between which what stands out is looked for, px. */
const FINE = 1.2;
const COARSE = 4;
/** Places inside, and all around, that are compared at most. */
const MOST = 160;
const MOST_AROUND = 1500;
/** px of a window up to which repeats are looked for. */
const MOST_PX = 4e6;
/** Of the grain every so many px are looked at to tell how strong it is. */
const SAMPLED = 11;
/** Copies of one place from which on what is around repeats by itself. */
const MANY = 5;
/** px that a place and its copy have to be apart. */
const APART = 14;
/**
 * Correlation of two places, and of their grain, in a copy. What is roughly alike is followed so many steps of so many px to where it agrees best.
 */
const SAME = 0.92;
const ROUGHLY = 0.85;
const STRIDE = 4;
const STEPS = 3;
/** Of the rows every so many are compared meanwhile. */
const ROWS = 2;
const SIDES = [
  [-1, 0],
  [1, 0],
  [0, -1],
  [0, 1],
] as const;
const GRAIN = 0.66;
/** Correlation of the grain where one is followed at all. */
const SOME_GRAIN = 0.3;
/** Levels of grain below which there is none to compare, and correlation that is asked for instead; and to be followed. */
const GRAINY = 0.5;
const GRAINLESS = 0.994;
const ALMOST = 0.88;
/** Share of all that varies below which what is fine says nothing of its own, as in a picture that was made larger. */
const OF_ALL = 0.08;
/** What that counts as beside grain that agrees. */
const UNKNOWN_GRAIN = 0.8;
/** What one place alone has to agree by. */
const ALONE_SAME = 0.93;
const ALONE_GRAIN = 0.78;
/** Repeats that are told of one place, at most. */
const TOLD = 3;
/** px by which copies that were laid in together may differ in where they come from. */
const TOGETHER = 2.5;
/** Correlation, and that of the grain, of what can only be a copy, and how well it is recognised at the least. */
const EXACT = { same: 0.99, grain: 0.93, recognised: 0.5 };
/** How much more than what is usual around a copy stands out from which on it is recognised, and beyond which surely. */
const USUAL = 0.75;
const SURELY = 1.3;
/** CIEDE2000 for a level by which something stands out, about. */
const CONTRAST = 0.4;
/** Levels by which something has to stand out to be known again, at most, and how many times what is usual around it. */
const KNOWN_AGAIN = 8;
const QUIETLY = 1.2;
/** How much a copy differs for somebody who does not know it again and only could by comparing. */
const HARDLY = 1.3;

interface Copy {
  same: number;
  grain: number;
  spot: Spot;
  x: number;
  y: number;
  mirror: 1 | -1;
}

/**
 * Whether a place is a copy of another: alike closely, and grain by grain. Settles where exactly, within 1 px, and where beside it
 * they agree best: a place that stands out may lie at the rim of what was copied.
 */
function copyOf(likeness: Likeness, spot: Spot, other: Spot, mirror: 1 | -1): Copy | null {
  const best = likeness.likestBeside(other, ROUGHLY);
  if (!best) return null;
  const { x, y } = best;
  /** How well both agree with the window moved; by as much on either side. */
  const moved = (du: number, dv: number, every: number) => {
    const [a, b] = [[spot.x + du, spot.y + dv] as const, [x + mirror * du, y + dv] as const];
    const { r, varies } = likeness.correlation('luma', a, b, mirror, every);
    const fine = likeness.correlation('grain', a, b, mirror, every);
    return { du, dv, same: r, grain: fine.r, without: fine.varies < Math.max(GRAINY, OF_ALL * varies) };
  };
  const rank = (a: ReturnType<typeof moved>) => a.same + (a.without ? 0 : a.grain);
  let at = moved(0, 0, ROWS);
  if (at.without ? at.same < ALMOST : at.grain < SOME_GRAIN) return null;
  let [cu, cv] = [0, 0];
  for (let step = 0; step < STEPS; step++) {
    const { du, dv } = at;
    let next = at;
    for (const [u, v] of SIDES) {
      // It is known where it came from.
      if (u === -cu && v === -cv && step) continue;
      const there = moved(du + STRIDE * u, dv + STRIDE * v, ROWS);
      if (rank(there) > rank(next)) [next, cu, cv] = [there, u, v];
    }
    if (next === at) break;
    at = next;
  }
  at = moved(at.du, at.dv, 1);
  // What repeats by itself, as bricks and blinds do, has other grain each time.
  const copy = { spot, x, y, mirror, same: at.same };
  if (at.without) return at.same < GRAINLESS ? null : { ...copy, grain: UNKNOWN_GRAIN };
  return at.same < SAME || at.grain < GRAIN ? null : { ...copy, grain: at.grain };
}

/** Copies that were laid in together: from as far away in one direction. */
function gathered(copies: readonly Copy[]): Copy[][] {
  const out: Copy[][] = [];
  const at: Array<[number, number]> = [];
  const cells = new Map<string, number[]>();
  for (const copy of copies) {
    const { spot, x, y, mirror } = copy;
    const [dx, dy] = [mirror === 1 ? x - spot.x : x + spot.x, y - spot.y];
    const [column, row] = [Math.floor(dx / TOGETHER), Math.floor(dy / TOGETHER)];
    let first = Infinity;
    for (let v = row - 1; v <= row + 1; v++)
      for (let u = column - 1; u <= column + 1; u++)
        for (const n of cells.get(`${mirror} ${u} ${v}`) ?? [])
          if (n < first && Math.hypot(dx - at[n][0], dy - at[n][1]) < TOGETHER) first = n;
    if (first < Infinity) {
      out[first].push(copy);
      continue;
    }
    const key = `${mirror} ${column} ${row}`;
    const cell = cells.get(key);
    if (cell) cell.push(out.length);
    else cells.set(key, [out.length]);
    at.push([dx, dy]);
    out.push([copy]);
  }
  return out;
}

const around = (places: ReadonlyArray<{ x: number; y: number }>): Box => {
  const [xs, ys] = [places.map((p) => p.x), places.map((p) => p.y)];
  const [x, y] = [Math.min(...xs) - HALF, Math.min(...ys) - HALF];
  return { x, y, width: Math.max(...xs) + HALF - x, height: Math.max(...ys) + HALF - y };
};

/** One plane less another, as a plane. */
function minus(a: Float32Array, b: Float32Array): Float32Array {
  const out = new Float32Array(a.length);
  for (let i = 0; i < out.length; i++) out[i] = a[i] - b[i];
  return out;
}

/** What is fine in a plane. Edges would outweigh all grain beside them: they count as the strongest of it. */
function grainOf(luma: Float32Array, soft: Float32Array): Float32Array {
  const some = new Float32Array(Math.ceil(luma.length / SAMPLED));
  for (let k = 0, i = 0; k < some.length; k++, i += SAMPLED) some[k] = Math.abs(luma[i] - soft[i]);
  const most = 2 * Math.max(0.5, medianOf(some, some.length));
  const grain = new Float32Array(luma.length);
  for (let i = 0; i < grain.length; i++) {
    const v = luma[i] - soft[i];
    grain[i] = v > most ? most : v < -most ? -most : v;
  }
  return grain;
}

/** Of one place it is said once, however many others it is like: the strongest, at most `TOLD`. */
function apart(told: readonly Sign[]): Sign[] {
  const out: Sign[] = [];
  for (let n = 0; n < told.length && out.length < TOLD; n++) {
    let isNew = true;
    for (let k = 0; k < n && isNew; k++) isNew = isEmpty(intersect(told[n].box, told[k].box));
    if (isNew) out.push(told[n]);
  }
  return out;
}

/**
 * The same texture twice, within a cover or in it and beside it: places that stand out and are described alike, also mirrored, and agree
 * grain by grain. How well it is recognised depends on how much it stands out from what is around.
 * Source: copy-move detection over keypoints, after Christlein et al., "An Evaluation of Popular Copy-Move Forgery Detection
 * Approaches", 2012, from memory; that natural repetition differs in its grain, own.
 */
export function repeat(place: Place): Sign[] {
  if (place.width * place.height > MOST_PX || !place.what.includes(1)) return [];
  return withKernels((kernels) => repeatsIn(place, kernels));
}

function repeatsIn(place: Place, kernels: Kernels): Sign[] {
  const { width, height, what, luma } = place;
  const soft = blur(luma, width, height, FINE);
  const coarse = blur(luma, width, height, COARSE);
  const all = spotsIn({ width, height, soft, between: minus(soft, coarse) }, (i) => what[i] !== 2, MOST_AROUND);
  const inside = all.filter(({ x, y }) => what[y * width + x] === 1).slice(0, MOST);
  if (!inside.length) return [];
  const usual = quantile(
    Float32Array.from(all, (s) => s.stands),
    0.8,
  );
  const likeness = new Likeness(kernels, { width, height, luma, grain: grainOf(luma, soft) });
  const copies: Copy[] = [];
  const album = albumOf(all);
  for (const spot of inside)
    for (const mirror of [1, -1] as const) {
      const own: Copy[] = [];
      likeness.take(spot, mirror);
      const described = mirror === 1 ? spot.description : mirroredOf(spot.description);
      for (const other of alikeIn(album, spot, described)) {
        if ((spot.x - other.x) ** 2 + (spot.y - other.y) ** 2 < APART * APART) continue;
        // Of two places inside one is enough.
        const within = what[other.y * width + other.x] === 1;
        if (within && (other.y < spot.y || (other.y === spot.y && other.x < spot.x))) continue;
        const copy = copyOf(likeness, spot, other, mirror);
        if (copy) own.push(copy);
      }
      // What was laid in was taken from one place: what is there many times, to the grain, repeats by itself, as screens do.
      if (own.length < MANY) copies.push(...own);
    }
  const sure = (group: Copy[]) => group.length > 1 || (group[0].same > ALONE_SAME && group[0].grain > ALONE_GRAIN);
  const exactly = (group: Copy[]) => group.some((c) => c.same > EXACT.same && c.grain > EXACT.grain);
  const told = gathered(copies)
    .filter(sure)
    .map((group): Sign => {
      const [own, source] = [around(group.map((c) => c.spot)), around(group)];
      const stands = Math.max(...group.map((c) => c.spot.stands));
      const recognised = Math.min(
        1,
        Math.max(exactly(group) ? EXACT.recognised : 0, (stands / usual - USUAL) / (SURELY - USUAL)),
      );
      const { spot, x, y } = group[0];
      return {
        kind: 'repeat',
        box: inPicture(place, own),
        partner: inPicture(place, source),
        figure: Math.hypot(x - spot.x, y - spot.y),
        unit: 'px apart',
        difference: Math.max(
          CONTRAST * Math.max(0, stands - Math.min(KNOWN_AGAIN, QUIETLY * usual)) * recognised,
          Math.min(HARDLY, exactly(group) ? CONTRAST * stands * recognised : 0),
        ),
        across: Math.min(own.width, own.height) / 2,
        along: Math.max(own.width, own.height) / 2,
        remedy: 'other-donor',
      };
    });
  told.sort((a, b) => b.difference - a.difference);
  return apart(told);
}
