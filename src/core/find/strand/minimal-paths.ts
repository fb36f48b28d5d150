import { straightestPath, type Way } from './straightest-path.ts';
import type { StraightenedBand } from './straightened-band.ts';

/** Half widths in columns at which a ridge is looked for, up to some 40 px in the picture. */
const HALVES = [0, 1, 2, 3, 5, 8];
const WIDEST = 22;
/** Levels of contrast at which a place counts as half a strand. */
const HALF_COST = 7;
/** Columns that a straight piece of a way may lean at most, and over long spans. */
const LEAN = 7;
const FAR_LEAN = 4;
/** How far in px the ends may lie from where they were set. */
const NEAR = 5;

/** A way along a strip: its cost, offsets across and half widths, one a row. */
export interface Course {
  cost: number;
  across: number[];
  halves: number[];
}

/**
 * Ways along a strip that cost little over a ridge response, darker or lighter than both its sides, the most promising
 * first.
 * @param scale px of the picture from row to row of the strip
 * @param mostLean columns a straight piece of a way may lean at most
 * Source: minimal paths after Cohen & Kimmel, "Global minimum for active contour models", 1997, here by dynamic
 * programming over a straightened band.
 */
export function* minimalPaths(
  strip: StraightenedBand,
  scale: number,
  mostLean = scale > 1 ? FAR_LEAN : LEAN,
): Generator<Course> {
  const { length, width, reach } = strip;
  const cells = length * width;
  const dark = new Float32Array(cells);
  const light = new Float32Array(cells);
  const darkHalf = new Uint8Array(cells);
  const lightHalf = new Uint8Array(cells);
  const sought = HALVES.filter((half) => half * scale <= WIDEST);
  // Sums of a row from its start, which at both its ends goes on as it is there: flanks may reach beyond it.
  const beyond = 2 * HALVES[HALVES.length - 1] + 2;
  const sums = new Float64Array(width + 2 * beyond + 1);
  for (let row = 0; row < length; row++) {
    const at = row * width;
    for (let k = 0; k + 1 < sums.length; k++) {
      const inside = k < beyond ? 0 : k - beyond < width ? k - beyond : width - 1;
      sums[k + 1] = sums[k] + strip.luma[at + inside];
    }
    for (const half of sought) {
      const reachOut = half + 1 + (half >> 1);
      const flank = Math.max(2, half + 1);
      const [ofFlank, ofMiddle] = [1 / flank, 1 / (2 * half + 1)];
      for (let k = reachOut; k < width - reachOut; k++) {
        const j = k + beyond;
        const left = (sums[j - reachOut + 1] - sums[j - reachOut + 1 - flank]) * ofFlank;
        const right = (sums[j + reachOut + flank] - sums[j + reachOut]) * ofFlank;
        const middle = (sums[j + half + 1] - sums[j - half]) * ofMiddle;
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
  const course = ({ cost, path }: Way): Course => ({
    cost,
    across: path.map((p) => p.k - reach),
    halves: path.map((p, row) => (p.layer ? lightHalf : darkHalf)[row * width + Math.round(p.k)]),
  });
  const sags = likelySags(costs, strip);
  const ends = Math.ceil(NEAR / scale);
  const hung = hangingPath(costs, strip, ends, sags[0])!;
  // Any other way counts only when it costs less than the one that hangs by so much, so none dearer need be followed.
  const free = straightestPath(costs, { length, width, reach, mostLean, ends }, hung.cost / HANGING);
  if (free) yield course({ ...free, cost: free.cost * HANGING });
  yield course(hung);
  const most = DEAREST * (free ? free.cost * HANGING : hung.cost);
  for (const sag of sags.slice(1)) {
    const way = hangingPath(costs, strip, ends, sag, most);
    if (way) yield course(way);
  }
}

/** How much dearer than the first a way may be to count. */
const DEAREST = 1.8;
/** How much more the way of something that hangs between its ends may cost than any other: most strands hang. */
const HANGING = 1.15;
/** px on both sides of the parabola within which it may lie. */
const SLACK = 7;
/** px by which it leans against the parabola at most, in a piece. */
const SWAY = 3;
/** How many sags are followed, and px between them. */
const SAGS = 14;
const BETWEEN = 6;
/** How far a thing that hangs is off the straight line at a row, when in the middle it is by `sag`. */
const hang = (sag: number, row: number, length: number): number => {
  const t = row / (length - 1);
  return 4 * sag * t * (1 - t);
};

/** Sags in columns whose parabolas through both ends cost little, the cheapest first. */
function likelySags(costs: Float32Array[], { length, width, reach }: StraightenedBand): number[] {
  // The cheaper layer, a column to either side.
  const least = new Float32Array(length * width);
  for (let i = 1; i + 1 < least.length; i++) {
    const dark = Math.min(costs[0][i - 1], costs[0][i], costs[0][i + 1]);
    least[i] = Math.min(dark, costs[1][i - 1], costs[1][i], costs[1][i + 1]);
  }
  const all: Array<{ sag: number; cost: number }> = [];
  for (let sag = 2 - reach; sag <= reach - 2; sag++) {
    let cost = 0;
    for (let row = 0; row < length; row += 2) cost += least[row * width + reach + Math.round(hang(sag, row, length))];
    all.push({ sag, cost });
  }
  const out: number[] = [];
  for (const { sag } of all.sort((a, b) => a.cost - b.cost)) {
    if (out.length < SAGS && out.every((s) => Math.abs(s - sag) > BETWEEN)) out.push(sag);
  }
  return out;
}

/** The cheapest way that keeps near a parabola through both ends, as a wire hangs. */
function hangingPath(
  costs: Float32Array[],
  { length, width, reach }: StraightenedBand,
  ends: number,
  sag: number,
  limit = Infinity,
): Way | null {
  const band = Math.min(SLACK, reach);
  const w = 2 * band + 1;
  const shifts = Int32Array.from({ length }, (_, row) => Math.round(hang(sag, row, length)));
  const near = costs.map((cost) => {
    const out = new Float32Array(length * w).fill(1);
    for (let row = 0; row < length; row++) {
      const first = reach + shifts[row] - band;
      const [from, to] = [Math.max(0, first), Math.min(width, first + w)];
      for (let k = from; k < to; k++) out[row * w + k - first] = cost[row * width + k];
    }
    return out;
  });
  const way = straightestPath(near, { length, width: w, reach: band, mostLean: SWAY, ends }, limit);
  if (!way) return null;
  const inside = (k: number) => Math.min(width - 1, Math.max(0, k));
  return { cost: way.cost, path: way.path.map((p, row) => ({ ...p, k: inside(p.k + reach - band + shifts[row]) })) };
}
