/** Least and most that a px of background is drawn out, where that suffices. */
const LEAST = 0.45;
/** px that are of one width. */
const CELL = 8;
/** What it costs when neighbours are drawn out unlike, beside what a cell's own drawing out costs. */
const SMOOTH = 60;
/** Rounds in which cells that come to their limit are held there. */
const ROUNDS = 40;

/** Where along an axis what was is drawn from: edges of px of the source, px of the target, from the first to one past the last. */
export interface Axis {
  edges: Float64Array;
  /** most that a px of background is drawn out */
  most: number;
}

/** Solves a symmetric tridiagonal system. Source: Thomas's algorithm (textbook). */
function tridiagonal(diagonal: Float64Array, beside: number, right: Float64Array): Float64Array {
  const n = diagonal.length;
  const c = new Float64Array(n);
  const x = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    const m = diagonal[i] - (i ? beside * c[i - 1] : 0);
    c[i] = beside / m;
    x[i] = (right[i] - (i ? beside * x[i - 1] : 0)) / m;
  }
  for (let i = n - 2; i >= 0; i--) x[i] -= c[i] * x[i + 1];
  return x;
}

/**
 * Widths of the cells of one side, from the guard outwards, that sum up to a length: what is plain is drawn out, what shows much less so,
 * neighbours alike, beginning at 1 beside the guard. A small quadratic programme: minimise Σ eᵢ (wᵢ − 1)² + λ Σ (wᵢ₊₁ − wᵢ)² with the sum
 * given and every width above a least one.
 * Source: Panozzo, Weber & Sorkine, "Robust image retargeting via axis-aligned deformation", 2012; bounds by holding what reaches them.
 */
function widthsOf(energy: Float64Array, total: number, isGuarded: boolean): Float64Array {
  const n = energy.length;
  const mean = energy.reduce((a, b) => a + b, 0) / n || 1;
  const e = energy.map((v) => 0.15 + v / mean);
  const least = Math.min(LEAST, (0.9 * total) / n);
  const held = new Uint8Array(n);
  const widths = new Float64Array(n);
  for (let round = 0; round < ROUNDS; round++) {
    const diagonal = new Float64Array(n);
    const [plain, unit] = [new Float64Array(n), new Float64Array(n)];
    for (let i = 0; i < n; i++) {
      // Held ones are drawn to their bound so strongly that they stay there.
      const hold = held[i] ? 1e9 : 0;
      diagonal[i] = e[i] + hold + SMOOTH * ((i > 0 || isGuarded ? 1 : 0) + (i < n - 1 ? 1 : 0));
      plain[i] = e[i] + hold * least + (i === 0 && isGuarded ? SMOOTH : 0);
      unit[i] = held[i] ? 0 : 1;
    }
    const a = tridiagonal(diagonal, -SMOOTH, plain);
    const b = tridiagonal(diagonal, -SMOOTH, unit);
    const by = (total - a.reduce((s, v) => s + v, 0)) / b.reduce((s, v) => s + v, 0);
    let isDone = true;
    for (let i = 0; i < n; i++) {
      widths[i] = a[i] + by * b[i];
      if (!held[i] && widths[i] < least) {
        held[i] = 1;
        isDone = false;
      }
    }
    if (isDone) break;
  }
  return widths;
}

/** Mean energy of the cells of a side, from the guard outwards. */
function cellsOf(energy: ArrayLike<number>, from: number, to: number): Float64Array {
  const length = Math.abs(to - from);
  const n = Math.max(1, Math.round(length / CELL));
  const out = new Float64Array(n);
  for (let k = 0; k < length; k++) {
    const at = from < to ? from + k : from - 1 - k;
    out[Math.min(n - 1, Math.floor((k * n) / length))] += (energy[at] * n) / length;
  }
  return out;
}

/** Widths of single px from those of cells, linear between them, that sum up exactly. */
function ofPixels(cells: Float64Array, length: number, total: number, isGuarded: boolean): Float64Array {
  const n = cells.length;
  const widths = Float64Array.from({ length }, (_, k) => {
    const at = ((k + 0.5) * n) / length - 0.5;
    const i = Math.floor(at);
    const first = isGuarded ? 1 : cells[0] / (length / n);
    const read = (j: number) => (j < 0 ? first : cells[Math.min(n - 1, j)] / (length / n));
    return read(i) + (read(i + 1) - read(i)) * (at - i);
  });
  const sum = widths.reduce((s, v) => s + v, 0);
  return widths.map((v) => (v * total) / sum);
}

/**
 * Draws an axis out (or in) on both sides of what is guarded, which stays where it is to the px.
 * @param energy how much is seen at each px of the axis
 * @param guard from and to (not included), px; null where nothing is guarded: both sides are drawn out from one px
 * @param before px that are added before the first, `after` the last; negative where they are taken away
 * @throws RangeError where there is no background to draw out
 */
export function drawnOut(
  energy: ArrayLike<number>,
  guard: { from: number; to: number } | null,
  before: number,
  after: number,
): Axis {
  const length = energy.length;
  const share = before === after ? 0.5 : Math.min(1, Math.max(0, before / (before + after)));
  const at = Math.round(length * share);
  const [from, to] = guard ? [guard.from, guard.to] : [at, at];
  const edges = Float64Array.from({ length: length + 1 }, (_, k) => k);
  let most = 1;
  for (const [side, by] of [
    [from, before],
    [length - to, after],
  ].entries()) {
    if (by[1] === 0) continue;
    const [room, add] = by;
    if (room < 1 || room + add < 1)
      throw new RangeError('There is no background on that side to draw out. Fill it, or guard less.');
    const cells = side === 0 ? cellsOf(energy, from, 0) : cellsOf(energy, to, length);
    const isGuarded = guard !== null;
    const perCell = room / cells.length;
    const wide = widthsOf(cells, (room + add) / perCell, isGuarded).map((w) => w * perCell);
    const widths = ofPixels(wide, room, room + add, isGuarded);
    for (let k = 0, sum = 0; k < room; k++) {
      sum += widths[k];
      most = Math.max(most, widths[k]);
      if (side === 0) edges[from - 1 - k] = from - sum;
      else edges[to + 1 + k] = to + sum;
    }
  }
  if (from > 0) edges[0] = -before;
  if (to < length) edges[length] = length + after;
  return { edges, most };
}

/** Where each px of a stretch of the target lies in the source (px centres at whole numbers), and how wide it is there. */
export function readFrom({ edges }: Axis, first: number, length: number): { at: Float64Array; wide: Float64Array } {
  const at = new Float64Array(length);
  const wide = new Float64Array(length);
  const last = edges.length - 2;
  for (let k = 0, i = 0; k < length; k++) {
    const x = first + k + 0.5;
    while (i < last && edges[i + 1] <= x) i++;
    const width = edges[i + 1] - edges[i];
    at[k] = i + (x - edges[i]) / width - 0.5;
    wide[k] = width;
  }
  return { at, wide };
}
