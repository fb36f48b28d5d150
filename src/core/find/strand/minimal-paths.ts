import type { StraightenedBand } from './straightened-band.ts';

/** Half widths in columns at which a ridge is looked for, up to some 40 px in the picture. */
const HALVES = [0, 1, 2, 3, 5, 8];
const WIDEST = 22;
/** Levels of contrast at which a place counts as half a strand. */
const HALF_COST = 7;
/** Rows to a straight piece, columns it may lean at most, and over long spans, cost of leaning a px more than the piece before. */
const PIECE = 8;
const LEAN = 7;
const FAR_LEAN = 4;
const BEND = 0.7;
/** Cost of turning from dark to light, and how far in px the ends may lie from where they were set. */
const SWITCH = 4;
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

/** Where ways run. */
interface Band {
  /** rows, columns, and columns to both sides of the middle one */
  length: number;
  width: number;
  reach: number;
  /** columns that a piece may lean at most */
  mostLean: number;
  /** columns by which its ends may lie beside the middle one */
  ends: number;
}

/** A way through a strip: its column and layer of cost at each row, and what it costs. */
interface Way {
  cost: number;
  path: Array<{ k: number; layer: number }>;
}

/**
 * The cheapest way through the rows in straight pieces of {@link PIECE} rows, each leaning little more or less than the
 * one before. Two layers of cost, dark and light, so that a strand may cross from a bright ground onto a dark one.
 * @returns null when every way costs as much as `limit`: ways are given up as soon as, with the least that is still to
 * come from where they are, they would
 */
function straightestPath(costs: Float32Array[], band: Band, limit = Infinity): Way | null {
  const { length, width, reach, mostLean, ends } = band;
  const pieces = Math.max(1, Math.ceil((length - 1) / PIECE));
  const leans = 2 * mostLean + 1;
  const states = 2 * width * leans;
  const state = (layer: number, k: number, lean: number) => (layer * width + k) * leans + lean + mostLean;
  let total = new Float64Array(states).fill(Infinity);
  let next = new Float64Array(states);
  /** for each piece and state the state before */
  const cameFrom = new Int32Array(pieces * states);
  for (let layer = 0; layer < 2; layer++) {
    for (let k = 0; k < width; k++) {
      if (Math.abs(k - reach) > ends) continue;
      for (let lean = -mostLean; lean <= mostLean; lean++) total[state(layer, k, lean)] = 0.1 * Math.abs(k - reach);
    }
  }
  const half = width * leans;
  const rest = cheapestRests(costs, band);
  /** places from which a way still goes on */
  const alive = new Uint8Array(2 * width);
  /** cheapest way to come to a place with a lean, from either layer, and where from */
  const coming = new Float64Array(states);
  const from = new Int32Array(states);
  let steps: Int32Array = new Int32Array(0);
  for (let piece = 0; piece < pieces; piece++) {
    const row = piece * PIECE;
    const rows = Math.min(PIECE, length - 1 - row);
    const left = length - 1 - row - rows;
    // Places that can be reached from the start, and from which the end can be.
    const k0 = Math.max(0, reach - ends - mostLean * piece);
    const k1 = Math.min(width - 1, reach + ends + mostLean * piece);
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
        alive[layer * width + k] = least + rest[piece][k] < limit ? 1 : 0;
      }
    }
    next.fill(Infinity);
    const came = piece * states;
    if (piece === 0 || rows < PIECE) steps = stepsOf(rows, width, mostLean);
    for (let lean = -mostLean; lean <= mostLean; lean++) {
      const b0 = Math.max(-mostLean, lean - 2) + mostLean;
      const b1 = Math.min(mostLean, lean + 2) + mostLean;
      const step = (lean + mostLean) * rows;
      const from0 = Math.max(k0, -lean, reach - left - ends - lean);
      const from1 = Math.min(k1, width - 1 - lean, reach + left + ends - lean);
      for (let layer = 0; layer < 2; layer++) {
        const cost = costs[layer];
        for (let k = from0; k <= from1; k++) {
          if (!alive[layer * width + k]) continue;
          const base = layer * half + k * leans;
          let best = Infinity;
          let via = -1;
          for (let before = b0; before <= b1; before++) {
            const turn = lean + mostLean - before;
            const sum = coming[base + before] + BEND * (turn < 0 ? -turn : turn);
            if (sum < best) {
              best = sum;
              via = from[base + before];
            }
          }
          if (via < 0 || best + rest[piece][k] >= limit) continue;
          for (let i = 0, at = row * width + k; i < rows; i++) best += cost[at + steps[step + i]];
          if (left === 0) best += 0.1 * Math.abs(k + lean - reach);
          const at = base + lean * leans + lean + mostLean;
          if (best < next[at]) {
            next[at] = best;
            cameFrom[came + at] = via;
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
    const before = cameFrom[(piece - 1) * states + at];
    const k = Math.floor(before / leans) % width;
    const to = Math.floor(at / leans) % width;
    const layer = Math.floor(at / leans / width);
    for (let i = piece === 1 ? 0 : 1; i <= rows; i++) out[row + i] = { k: k + ((to - k) * i) / rows, layer };
    at = before;
  }
  return { cost, path: out };
}

/** Where a straight piece is in each of its rows, in cells from its start: for each lean, one after the other. */
function stepsOf(rows: number, width: number, mostLean: number): Int32Array {
  const out = new Int32Array((2 * mostLean + 1) * rows);
  for (let lean = -mostLean, at = 0; lean <= mostLean; lean++)
    for (let i = 1; i <= rows; i++, at++) out[at] = i * width + Math.round((lean * i) / rows);
  return out;
}

/**
 * What is still to come at the least from each column, a list at each start of a piece: the cheapest way on of all that
 * move as far from row to row as pieces may, however crooked, in whichever layer.
 */
function cheapestRests(costs: Float32Array[], { length, width, reach, mostLean, ends }: Band): Float64Array[] {
  const out: Float64Array[] = [];
  let rest = new Float64Array(width);
  let before = new Float64Array(width);
  // A last piece of few rows may lean as far as any other, so much more from row to row.
  const last = (length - 1) % PIECE;
  for (let row = length - 1; row >= 0; row--) {
    if (row % PIECE === 0) out[row / PIECE] = rest.slice();
    if (row === 0) break;
    const step = last && row > length - 1 - last ? mostLean : 1;
    const away = ends + mostLean * Math.ceil(Math.min(row, length - 1 - row) / PIECE + 1);
    const [k0, k1] = [Math.max(0, reach - away), Math.min(width - 1, reach + away)];
    for (let k = k0, i = row * width + k0; k <= k1; k++, i++) rest[k] += Math.min(costs[0][i], costs[1][i]);
    before.fill(Infinity);
    for (let k = Math.max(0, k0 - step); k <= Math.min(width - 1, k1 + step); k++) {
      let least = Infinity;
      for (let m = Math.max(k0, k - step); m <= Math.min(k1, k + step); m++) if (rest[m] < least) least = rest[m];
      before[k] = least;
    }
    [rest, before] = [before, rest];
  }
  return out;
}
