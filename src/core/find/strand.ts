import type { Point, Shape } from '../mask/shapes.ts';
import type { Raster } from '../raster/raster.ts';
import { lumaReader, straighten, type Strip } from './strip.ts';

/** A strand as it runs through the picture. */
export interface TracedStrand {
  /** the centre line, px */
  points: Point[];
  /** px across at each point */
  widths: number[];
  /** median of the widths */
  width: number;
  /** softness of its edges: standard deviation in px of the blur that would make them so */
  blur: number;
  /** how much darker (below 0) or lighter than its ground it is, levels of 255, median of the magnitude with the usual sign */
  contrast: number;
  /** length of the centre line, px */
  length: number;
  /** 0 to 1: share of the line along which it really stands out from its ground */
  certainty: number;
}

/** Half widths in px at which a ridge is looked for. */
const HALVES = [0, 1, 2, 3, 5, 8];
/** Levels of contrast at which a place counts as half a strand. */
const HALF_COST = 7;
/** Rows to a straight piece, px it may lean at most, cost of leaning a px more than the piece before. */
const PIECE = 8;
const LEAN = 7;
const BEND = 0.7;
/** Cost of turning from dark to light, and how far in px the ends may lie from where they were set. */
const SWITCH = 4;
const NEAR = 5;
/** px between two points from which on the way is looked for at half the size, and only measured at full size */
const COARSE = 1300;
/** px between the measured places of the centre line */
const STEP = 2;

/**
 * Traces a strand through two or more points set on it: a path of least cost over a ridge response, darker or lighter
 * than both its sides, which may change along it; then centre and width are measured across the path.
 *
 * @param clicks px, at least two, in order along the strand; they need to be right within some 4 px
 * @throws Error with a message for the user when the points are too close together.
 * Source: minimal paths after Cohen & Kimmel, "Global minimum for active contour models", 1997, here by dynamic
 * programming over a straightened band; width at half height (common practice).
 */
export function traceStrand(picture: Raster, clicks: Point[]): TracedStrand {
  const read = lumaReader(picture);
  const rough: Point[] = [];
  const guessed: number[] = [];
  for (let i = 1; i < clicks.length; i++) {
    const span = Math.hypot(clicks[i][0] - clicks[i - 1][0], clicks[i][1] - clicks[i - 1][1]);
    if (span < 6) continue;
    const reach = Math.round(Math.min(240, Math.max(14, 0.14 * span), swing(clicks, i)));
    const scale = span > COARSE ? 2 : 1;
    const strip = straighten(read, clicks[i - 1], clicks[i], Math.round(reach / scale), scale);
    const run = cheapestPath(strip, scale);
    run.across.forEach((t, row) => {
      if ((row === 0 && rough.length) || (row * scale) % STEP) return;
      rough.push(strip.place(row, t));
      guessed.push((2 * run.halves[row] + 1) * scale);
    });
  }
  if (rough.length < 6) throw new Error('Set two points on the strand, at least 6 px apart.');
  return refineStrand(read, rough, median(guessed));
}

/**
 * px to both sides of the line from a click to the one before within which the strand runs. Clicks beyond them tell how
 * far it bows: as far as the mean of the parabolas through three of them (common practice).
 */
function swing(clicks: Point[], i: number): number {
  const [b, c] = [clicks[i - 1], clicks[i]];
  const span = Math.hypot(c[0] - b[0], c[1] - b[1]);
  const bows = [
    [clicks[i - 2], b, c],
    [clicks[i + 1], c, b],
  ].flatMap(([a, p, q]) => {
    if (!a) return [];
    // As if the outer click were as far away as the two are from each other.
    const far = span / Math.max(1, Math.hypot(a[0] - p[0], a[1] - p[1]));
    return [Math.hypot(...([0, 1].map((k) => (p[k] + (a[k] - p[k]) * far - 2 * p[k] + q[k]) / 8) as [number, number]))];
  });
  return bows.length && clicks.length > 3 ? 6 + 2 * Math.max(...bows) : Infinity;
}

/**
 * Moves a rough centre line onto the strand that it follows and measures it.
 * @param read luma at a place in px, see {@link lumaReader}
 * @param rough the line, a point every 2 px or so
 * @param guess about how wide the strand is, px
 */
export function refineStrand(read: (x: number, y: number) => number, rough: Point[], guess: number): TracedStrand {
  let line = smooth(rough, 7);
  let measured = measure(read, line, guess);
  for (let pass = 0; pass < 2; pass++) {
    line = smooth(recentred(line, measured), pass === 0 ? 7 : 4);
    measured = measure(read, line, median(measured.widths.filter((w) => w > 0)) || guess);
  }
  const sure = measured.widths.flatMap((w, i) => (w > 0 ? [i] : []));
  const width = sure.length ? median(sure.map((i) => measured.widths[i])) : guess;
  const widths = runningMedian(
    measured.widths.map((w) => w || width),
    12,
  );
  const sign = sure.reduce((n, i) => n + Math.sign(measured.contrasts[i]), 0) < 0 ? -1 : 1;
  return {
    points: line,
    widths,
    width,
    blur: sure.length ? median(sure.map((i) => measured.blurs[i])) : 0,
    contrast: sign * (sure.length ? median(sure.map((i) => Math.abs(measured.contrasts[i]))) : 0),
    length: line.reduce((s, p, i) => (i ? s + Math.hypot(p[0] - line[i - 1][0], p[1] - line[i - 1][1]) : 0), 0),
    certainty: sure.length / line.length,
  };
}

const median = (list: number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1] ?? 0;

function runningMedian(list: number[], reach: number): number[] {
  return list.map((_, i) => median(list.slice(Math.max(0, i - reach), i + reach + 1)));
}

/** Local straight-line fits over `reach` points on both sides, which keep bends that are longer than that. */
function smooth(points: Point[], reach: number): Point[] {
  return points.map((_, i) => {
    const r = Math.min(reach, Math.max(1, i), Math.max(1, points.length - 1 - i));
    let x = 0;
    let y = 0;
    let n = 0;
    for (let j = Math.max(0, i - r); j <= Math.min(points.length - 1, i + r); j++) {
      const w = 1 - Math.abs(j - i) / (r + 1);
      x += w * points[j][0];
      y += w * points[j][1];
      n += w;
    }
    return [x / n, y / n];
  });
}

/** The way along a strip that costs least; offsets across and half widths, one a row. */
function cheapestPath(strip: Strip, scale: number): { across: number[]; halves: number[] } {
  const { length, width, reach } = strip;
  const cells = length * width;
  const dark = new Float32Array(cells);
  const light = new Float32Array(cells);
  const darkHalf = new Uint8Array(cells);
  const lightHalf = new Uint8Array(cells);
  const sums = new Float64Array(width + 1);
  for (let row = 0; row < length; row++) {
    const at = row * width;
    for (let k = 0; k < width; k++) sums[k + 1] = sums[k] + strip.luma[at + k];
    for (const half of HALVES) {
      const gap = 1 + (half >> 1);
      const flank = Math.max(2, half + 1);
      const reachOut = half + gap;
      const across = 2 * half + 1;
      // Beyond these at least a part of a flank is missing: what is left of it decides, as far as there is any.
      for (let k = reachOut; k < width - reachOut; k++) {
        const l0 = k - reachOut - flank + 1;
        const left = (sums[k - reachOut + 1] - sums[l0 > 0 ? l0 : 0]) / (l0 > 0 ? flank : k - reachOut + 1);
        const r1 = k + reachOut + flank;
        const right =
          (sums[r1 < width ? r1 : width] - sums[k + reachOut]) / (r1 < width ? flank : width - k - reachOut);
        const middle = (sums[k + half + 1] - sums[k - half]) / across;
        const d = (left < right ? left : right) - middle;
        const l = middle - (left > right ? left : right);
        if (d > dark[at + k]) {
          dark[at + k] = d;
          darkHalf[at + k] = half;
        }
        if (l > light[at + k]) {
          light[at + k] = l;
          lightHalf[at + k] = half;
        }
      }
    }
  }
  const costs = [dark, light];
  for (const cost of costs) for (let i = 0; i < cells; i++) cost[i] = (scale * HALF_COST) / (HALF_COST + cost[i]);
  // Another way is taken only when it costs less than the one that hangs by so much, so none dearer need be followed.
  const hung = hangingPath(costs, strip);
  const { path } = straightestPath(costs, length, width, reach, hung.cost / HANGING) ?? hung;
  return {
    across: path.map((p) => p.k - reach),
    halves: path.map((p, row) => (p.layer ? lightHalf : darkHalf)[row * width + Math.round(p.k)]),
  };
}

/** How much more the way of something that hangs between its ends may cost than any other: most strands hang. */
const HANGING = 1.15;
/** px on both sides of the parabola within which it may lie. */
const SLACK = 7;

/**
 * The cheapest way that keeps near a parabola through both ends, as a wire hangs: every sag is tried, then the way is
 * looked for around the best one.
 */
function hangingPath(costs: Float32Array[], { length, width, reach }: Strip): Way {
  const offset = (sag: number, row: number) => {
    const t = row / (length - 1);
    return 4 * sag * t * (1 - t);
  };
  // The cheaper layer, a column to either side.
  const least = new Float32Array(length * width);
  for (let i = 1; i + 1 < least.length; i++) {
    const dark = Math.min(costs[0][i - 1], costs[0][i], costs[0][i + 1]);
    least[i] = Math.min(dark, costs[1][i - 1], costs[1][i], costs[1][i + 1]);
  }
  let best = { sag: 0, cost: Infinity };
  for (let sag = 2 - reach; sag <= reach - 2; sag++) {
    let sum = 0;
    for (let row = 0; row < length; row += 2) {
      sum += least[row * width + reach + Math.round(offset(sag, row))];
    }
    if (sum < best.cost) best = { sag, cost: sum };
  }
  const band = Math.min(SLACK, reach);
  const w = 2 * band + 1;
  const shifts = Array.from({ length }, (_, row) => Math.round(offset(best.sag, row)));
  const near = costs.map((cost) => {
    const out = new Float32Array(length * w).fill(1);
    for (let row = 0; row < length; row++)
      for (let j = 0; j < w; j++) {
        const k = reach + shifts[row] + j - band;
        if (k >= 0 && k < width) out[row * w + j] = cost[row * width + k];
      }
    return out;
  });
  const { cost, path } = straightestPath(near, length, w, band)!;
  const inside = (k: number) => Math.min(width - 1, Math.max(0, k));
  return { cost, path: path.map((p, row) => ({ ...p, k: inside(p.k + reach - band + shifts[row]) })) };
}

/** A way through a strip: its column and layer of cost at each row, and what it costs. */
interface Way {
  cost: number;
  path: Array<{ k: number; layer: number }>;
}

/**
 * The cheapest way through the rows in straight pieces of {@link PIECE} rows, each leaning little more or less than the
 * one before. Two layers of cost, dark and light, so that a strand may cross from a bright ground onto a dark one.
 * @returns null when every way costs as much as `limit`: ways are given up as soon as, with the cheapest place of each
 * row still to come, they would
 */
function straightestPath(
  costs: Float32Array[],
  length: number,
  width: number,
  reach: number,
  limit = Infinity,
): Way | null {
  const pieces = Math.max(1, Math.ceil((length - 1) / PIECE));
  const leans = 2 * LEAN + 1;
  const states = 2 * width * leans;
  const state = (layer: number, k: number, lean: number) => (layer * width + k) * leans + lean + LEAN;
  let total = new Float64Array(states).fill(Infinity);
  let next = new Float64Array(states);
  const cameFrom = Array.from({ length: pieces + 1 }, () => new Int32Array(states).fill(-1));
  for (let layer = 0; layer < 2; layer++) {
    for (let k = 0; k < width; k++) {
      if (Math.abs(k - reach) > NEAR) continue;
      for (let lean = -LEAN; lean <= LEAN; lean++) total[state(layer, k, lean)] = 0.1 * Math.abs(k - reach);
    }
  }
  const half = width * leans;
  const rest = cheapestRests(costs, length, width, reach);
  /** places from which a way still goes on */
  const alive = new Uint8Array(2 * width);
  /** cheapest way to come to a place with a lean, from either layer, and where from */
  const coming = new Float64Array(states);
  const from = new Int32Array(states);
  for (let piece = 0; piece < pieces; piece++) {
    const row = piece * PIECE;
    const rows = Math.min(PIECE, length - 1 - row);
    const left = length - 1 - row - rows;
    // Places that can be reached from the start, and from which the end can be.
    const k0 = Math.max(0, reach - NEAR - LEAN * piece);
    const k1 = Math.min(width - 1, reach + NEAR + LEAN * piece);
    for (let layer = 0; layer < 2; layer++) {
      const own = layer * half;
      const other = half - own;
      for (let k = k0, i = k0 * leans; k <= k1; k++) {
        let least = Infinity;
        for (const end = i + leans; i < end; i++) {
          const switched = total[other + i] + SWITCH;
          const stays = total[own + i] <= switched;
          const sum = stays ? total[own + i] : switched;
          coming[own + i] = sum;
          from[own + i] = stays ? own + i : other + i;
          if (sum < least) least = sum;
        }
        alive[layer * width + k] = least + rest[row] < limit ? 1 : 0;
      }
    }
    next.fill(Infinity);
    const came = cameFrom[piece + 1];
    for (let lean = -LEAN; lean <= LEAN; lean++) {
      const b0 = Math.max(-LEAN, lean - 2) + LEAN;
      const b1 = Math.min(LEAN, lean + 2) + LEAN;
      const steps = Array.from({ length: rows }, (_, i) => (row + i + 1) * width + Math.round((lean * (i + 1)) / rows));
      const from0 = Math.max(k0, -lean, reach - left - NEAR - lean);
      const from1 = Math.min(k1, width - 1 - lean, reach + left + NEAR - lean);
      for (let layer = 0; layer < 2; layer++) {
        const cost = costs[layer];
        for (let k = from0; k <= from1; k++) {
          if (!alive[layer * width + k]) continue;
          const base = layer * half + k * leans;
          let best = Infinity;
          let via = -1;
          for (let before = b0; before <= b1; before++) {
            const turn = lean + LEAN - before;
            const sum = coming[base + before] + BEND * (turn < 0 ? -turn : turn);
            if (sum < best) {
              best = sum;
              via = from[base + before];
            }
          }
          if (via < 0) continue;
          for (let i = 0; i < rows; i++) best += cost[k + steps[i]];
          if (left === 0) best += 0.1 * Math.abs(k + lean - reach);
          const at = base + lean * leans + lean + LEAN;
          if (best < next[at]) {
            next[at] = best;
            came[at] = via;
          }
        }
      }
    }
    [total, next] = [next, total];
  }
  let at = total.reduce((best, v, i) => (v < total[best] ? i : best), 0);
  const cost = total[at];
  if (!(cost < limit)) return null;
  const out = new Array<{ k: number; layer: number }>(length);
  for (let piece = pieces; piece > 0; piece--) {
    const row = (piece - 1) * PIECE;
    const rows = Math.min(PIECE, length - 1 - row);
    const before = cameFrom[piece][at];
    const k = Math.floor(before / leans) % width;
    const to = Math.floor(at / leans) % width;
    const layer = Math.floor(at / leans / width);
    for (let i = piece === 1 ? 0 : 1; i <= rows; i++) out[row + i] = { k: k + ((to - k) * i) / rows, layer };
    at = before;
  }
  return { cost, path: out };
}

/** For each row what the rows after it cost at the least, at the places that can be come to from both ends. */
function cheapestRests(costs: Float32Array[], length: number, width: number, reach: number): Float64Array {
  const rest = new Float64Array(length);
  for (let row = length - 1; row > 0; row--) {
    const away = NEAR + LEAN * Math.ceil(Math.min(row, length - 1 - row) / PIECE + 1);
    let least = Infinity;
    for (let k = Math.max(0, reach - away); k <= Math.min(width - 1, reach + away); k++) {
      const i = row * width + k;
      least = Math.min(least, costs[0][i], costs[1][i]);
    }
    rest[row - 1] = rest[row] + least;
  }
  return rest;
}

interface Measured {
  /** offset of the true centre across the line; 0 where nothing was seen */
  offsets: number[];
  /** 0 where nothing was seen */
  widths: number[];
  blurs: number[];
  contrasts: number[];
}

/** Measures the strand across the line: a profile at each point, averaged along the line, its centre and width at half height. */
function measure(read: (x: number, y: number) => number, line: Point[], guess: number): Measured {
  const out: Measured = { offsets: [], widths: [], blurs: [], contrasts: [] };
  const reach = Math.ceil(1.2 * guess + 6);
  const perPx = 4;
  const size = 2 * reach * perPx + 1;
  const profiles = line.map((p, i) => {
    const a = line[Math.max(0, i - 3)];
    const b = line[Math.min(line.length - 1, i + 3)];
    const span = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    const nx = -(b[1] - a[1]) / span;
    const ny = (b[0] - a[0]) / span;
    const profile = new Float32Array(size);
    for (let k = 0; k < size; k++) {
      const t = k / perPx - reach;
      profile[k] = read(p[0] + nx * t, p[1] + ny * t);
    }
    return profile;
  });
  const mean = new Float32Array(size);
  for (let i = 0; i < line.length; i++) {
    mean.fill(0);
    let n = 0;
    for (let j = Math.max(0, i - 3); j <= Math.min(line.length - 1, i + 3); j++, n++) {
      for (let k = 0; k < size; k++) mean[k] += profiles[j][k];
    }
    for (let k = 0; k < size; k++) mean[k] /= n;
    const found = ridgeOf(mean, reach, perPx, guess);
    out.offsets.push(found?.centre ?? 0);
    out.widths.push(found?.width ?? 0);
    out.blurs.push(found?.blur ?? 0);
    out.contrasts.push(found?.contrast ?? 0);
  }
  return out;
}

function ridgeOf(profile: Float32Array, reach: number, perPx: number, guess: number) {
  const at = (t: number) => Math.round((t + reach) * perPx);
  const side = (from: number, to: number) => {
    let s = 0;
    let n = 0;
    for (let k = Math.max(0, at(from)); k <= Math.min(profile.length - 1, at(to)); k++, n++) s += profile[k];
    return n ? s / n : 0;
  };
  const near = 0.75 * guess + 1.5;
  const far = near + Math.max(2, 0.4 * guess);
  const left = side(-far, -near);
  const right = side(near, far);
  const ground = (k: number) => {
    const t = k / perPx - reach;
    const share = Math.min(1, Math.max(0, (t + near) / (2 * near)));
    return left + (right - left) * share;
  };
  let peak = 0;
  let peakAt = -1;
  const window = Math.max(1.5, 0.5 * guess);
  for (let k = at(-window); k <= at(window); k++) {
    const c = profile[k] - ground(k);
    if (Math.abs(c) > Math.abs(peak)) {
      peak = c;
      peakAt = k;
    }
  }
  // What does not stand out from the step between its sides is no ridge.
  if (Math.abs(peak) < 3 || Math.abs(peak) < 0.4 * Math.abs(left - right)) return undefined;
  const height = (k: number) => (profile[k] - ground(k)) / peak;
  const crossing = (direction: 1 | -1): { half: number; slope: number } | undefined => {
    for (let k = peakAt; k > 0 && k < profile.length - 1; k += direction) {
      const a = height(k);
      const b = height(k + direction);
      if (a >= 0.5 && b < 0.5) {
        const slope = Math.abs(height(Math.max(0, k - perPx)) - height(Math.min(profile.length - 1, k + perPx))) / 2;
        return { half: (k + (direction * (a - 0.5)) / (a - b)) / perPx - reach, slope };
      }
    }
    return undefined;
  };
  const l = crossing(-1);
  const r = crossing(1);
  if (!l || !r) return undefined;
  const width = r.half - l.half;
  if (width > 2.2 * guess + 4) return undefined;
  // A step blurred by σ has the slope 1 / (σ √2π); sampling itself blurs by about 0.4 px.
  const sigma = 1 / (Math.max(0.05, (l.slope + r.slope) / 2) * Math.sqrt(2 * Math.PI));
  return { centre: (l.half + r.half) / 2, width, blur: Math.sqrt(Math.max(0, sigma * sigma - 0.25)), contrast: peak };
}

/** Moves the line onto the measured centres; a single one that disagrees with its neighbours does not count. */
function recentred(line: Point[], measured: Measured): Point[] {
  const offsets = runningMedian(measured.offsets, 3);
  return line.map((p, i) => {
    const a = line[Math.max(0, i - 3)];
    const b = line[Math.min(line.length - 1, i + 3)];
    const span = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    const move = Math.min(2, Math.max(-2, offsets[i]));
    return [p[0] - ((b[1] - a[1]) / span) * move, p[1] + ((b[0] - a[0]) / span) * move];
  });
}

/**
 * The outline of a traced strand, wider than measured by `margin` px on each side, as one closed polygon.
 */
export function strandOutline({ points, widths }: Pick<TracedStrand, 'points' | 'widths'>, margin: number): Point[] {
  const side = (sign: 1 | -1): Point[] =>
    points.map((p, i) => {
      const a = points[Math.max(0, i - 1)];
      const b = points[Math.min(points.length - 1, i + 1)];
      const span = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
      const d = sign * (widths[i] / 2 + margin);
      return [p[0] - ((b[1] - a[1]) / span) * d, p[1] + ((b[0] - a[0]) / span) * d];
    });
  return [...side(1), ...side(-1).reverse()];
}

/** px across from which strands are looked for at half the size, and only measured at full size. */
const WIDE = 8;

/** Median of the widths of strands, px. */
export const usualWidth = (strands: readonly TracedStrand[]): number => median(strands.map((s) => s.width));

/** How many px of the picture a px is as which strands are best looked at. */
export const scaleFor = (strands: readonly TracedStrand[]): 1 | 2 => (usualWidth(strands) >= WIDE ? 2 : 1);

/** A strand in a picture `by` times as large. */
export const resizeStrand = (s: TracedStrand, by: number): TracedStrand => ({
  ...s,
  points: s.points.map(([x, y]): Point => [x * by, y * by]),
  widths: s.widths.map((w) => w * by),
  width: s.width * by,
  blur: s.blur * by,
  length: s.length * by,
});

/** Softness in px that a lens and sampling give even to a sharp strand. */
const SHARP = 0.8;
/** How far beyond its half height an edge blurred by σ is still seen, in σ: beyond it less than a twentieth is left. */
const VEIL = 1.65;

/** The cover of a traced strand: its outline with a hard edge, and the veil that an out-of-focus strand casts beside it. */
export function strandCover(strand: Pick<TracedStrand, 'points' | 'widths' | 'width' | 'blur'>): Shape[] {
  const veil = Math.min(VEIL * Math.max(0, strand.blur - SHARP), 0.6 * strand.width + 3);
  return [{ op: 'add', kind: 'outline', points: strandOutline(strand, 0.1 + veil) }];
}
