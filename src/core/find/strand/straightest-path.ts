/** Rows to a straight piece. */
const PIECE = 8;
/** Cost of leaning a px more than the piece before. */
const BEND = 0.7;
/** Cost of turning from dark to light. */
const SWITCH = 4;

/** Where ways run. */
export interface Band {
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
export interface Way {
  cost: number;
  path: Array<{ k: number; layer: number }>;
}

/**
 * The cheapest way through the rows in straight pieces of {@link PIECE} rows, each leaning little more or less than the
 * one before. Two layers of cost, dark and light, so that a strand may cross from a bright ground onto a dark one.
 * @returns null when every way costs as much as `limit`: ways are given up as soon as, with the least that is still to
 * come from where they are, they would
 */
export function straightestPath(costs: Float32Array[], band: Band, limit = Infinity): Way | null {
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
