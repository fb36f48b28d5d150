import { Kernels } from '../../../kernels/memory.ts';
import { donorOf, type Field, type Move } from './field.ts';
import { LANES } from './features.ts';
import type { Level } from './levels.ts';

/** How many moves are proposed of each kind. */
const PEAKS = 36;
const BORDERS = 24;
const RINGS = 40;

/** Half the side in px of the patches whose likes are looked up for the histogram of moves, and the least length of a move. */
const PATCH = 3;
const LEAST_MOVE = 6;
/** How many of the commonest moves tell whether a place is regular. */
const MAIN = 12;
/** Width in px of the ring around the cover. */
const RING = 4;
/** Distance at which a pixel of the ring counts as badly matched. */
const MISMATCH = 28;

/**
 * Proposes moves by which donors could be laid into the cover.
 * - *Peaks*: the commonest moves between alike patches of the known area, which regular structure repeats by.
 * - *Borders*: the best matches of patches on the cover's border.
 * - *Rings*: moves that lay a ring around the cover onto something alike: some by the whole ring, others so that each stretch
 *   of it is well met by one.
 *
 * Source: dominant offsets after He & Sun, "Statistics of Patch Offsets for Image Completion", ECCV 2012; rings from own measurement.
 */
export function proposeMoves(field: Field, common: readonly Move[]): Move[] {
  const known = new Map<string, Move>();
  const add = (moves: readonly Move[]) => {
    for (const m of moves) if (m.x || m.y) known.set(`${m.x},${m.y}`, m);
  };
  const ring = ringOf(field);
  const table = ringTable(field, ring);
  add(wholeRing(table));
  add(stretchesOfRing(table));
  add(common);
  return serveAll(field, [...known.values()]);
}

/** Moves that a level's pixels propose by themselves, whatever they are weighed by: *peaks* and *borders*. */
export function movesOfLevel(field: Field, level: Level, seed: number): Proposed {
  const { moves, regular } = commonMoves(field, level, seed);
  return { moves: [...moves, ...borderMatches(field, level)], regular };
}

/** Proposed moves, and the share of patches of the known area whose likes lie at one of a few moves: high for regular structure. */
export interface Proposed {
  moves: Move[];
  regular: number;
}

/** Known pixels near the cover, not all of them where there are many, and how much each tells. */
interface RingPixel {
  i: number;
  weight: number;
}

function ringOf(field: Field): RingPixel[] {
  const { width, height, index, known, features, pixels } = field;
  const seen = new Uint8Array(width * height);
  const ring: RingPixel[] = [];
  for (const p of pixels) {
    const px = p % width;
    const py = (p - px) / width;
    const onBorder =
      (px > 0 && index[p - 1] < 0) ||
      (px + 1 < width && index[p + 1] < 0) ||
      (py > 0 && index[p - width] < 0) ||
      (py + 1 < height && index[p + width] < 0);
    if (!onBorder) continue;
    for (let y = Math.max(0, py - RING); y <= Math.min(height - 1, py + RING); y++) {
      for (let x = Math.max(0, px - RING); x <= Math.min(width - 1, px + RING); x++) {
        const i = y * width + x;
        if (seen[i] || index[i] >= 0 || !known[i]) continue;
        seen[i] = 1;
        const slope = Math.abs(features[i * LANES + 3]) + Math.abs(features[i * LANES + 4]);
        ring.push({ i, weight: 1 + Math.min(4, slope / 6) });
      }
    }
  }
  ring.sort((a, b) => a.i - b.i);
  const step = Math.max(1, Math.ceil(ring.length / 160));
  return ring.filter((_, n) => n % step === 0);
}

/** Moves and how well each lays the ring. */
interface RingTable {
  moves: Move[];
  /** mean mismatch of the whole ring, 0 to 1 */
  whole: Float32Array;
  /** mean mismatch of each stretch of the ring: move × STRETCHES + stretch */
  stretches: Float32Array;
}

const STRETCHES = 12;

/** Looks the ring up at every second move, then closer by the best. */
function ringTable(field: Field, ring: RingPixel[]): RingTable {
  const { width, height, rows, pixels } = field;
  let [cx, cy] = [0, 0];
  for (const p of pixels) {
    cx += p % width;
    cy += Math.floor(p / width);
  }
  cx /= pixels.length;
  cy /= pixels.length;
  const stretchOf = ring.map(({ i }) => {
    const angle = Math.atan2(Math.floor(i / width) - cy, (i % width) - cx) / (2 * Math.PI) + 0.5;
    return Math.min(STRETCHES - 1, Math.floor(angle * STRETCHES));
  });
  const totals = new Float32Array(STRETCHES);
  ring.forEach((r, n) => (totals[stretchOf[n]] += r.weight));

  const moves: Move[] = [];
  const whole: number[] = [];
  const stretches: number[] = [];
  const kernels = new Kernels();
  const { run } = kernels;
  const features = kernels.put(field.features);
  const known = kernels.put(field.known);
  const allowed = kernels.put(field.allowed);
  const ringAt = kernels.put(Int32Array.from(ring.flatMap(({ i }, n) => [i, stretchOf[n]])));
  const weightsAt = kernels.put(Float32Array.from(ring, (r) => r.weight));
  const totalsAt = kernels.put(totals);
  run.fieldOpen(features, known, allowed, width, height, rows, 0);
  const mark = kernels.mark();
  const look = (list: Move[]) => {
    kernels.release(mark);
    const movesAt = kernels.put(Int32Array.from(list.flatMap((m) => [m.x, m.y])));
    const wholeAt = kernels.reserve(4 * list.length);
    const partsAt = kernels.reserve(4 * STRETCHES * list.length);
    run.ringCosts(
      ringAt,
      weightsAt,
      totalsAt,
      ring.length,
      STRETCHES,
      MISMATCH,
      movesAt,
      list.length,
      wholeAt,
      partsAt,
    );
    moves.push(...list);
    for (const w of kernels.f32(wholeAt, list.length)) whole.push(w);
    for (const p of kernels.f32(partsAt, STRETCHES * list.length)) stretches.push(p);
  };
  const step = Math.max(2, Math.round(Math.sqrt((2 * width * (height + rows)) / 12000)));
  const grid: Move[] = [];
  // At least a quarter of the cover must find a donor.
  for (let y = -height + 1; y < rows; y += step)
    for (let x = -width + 1; x < width; x += step) if (servedShare(field, { x, y }, 16) >= 0.25) grid.push({ x, y });
  look(grid);
  const refine = new Set<number>();
  const order = [...whole.keys()].sort((a, b) => whole[a] - whole[b]);
  order.slice(0, 30).forEach((m) => refine.add(m));
  for (let s = 0; s < STRETCHES; s++) {
    const by = [...grid.keys()].sort((a, b) => stretches[a * STRETCHES + s] - stretches[b * STRETCHES + s]);
    by.slice(0, 6).forEach((m) => refine.add(m));
  }
  const reach = step - 1;
  const close: Move[] = [];
  for (const m of [...refine].sort((a, b) => a - b)) {
    for (let dy = -reach; dy <= reach; dy++)
      for (let dx = -reach; dx <= reach; dx++) if (dx || dy) close.push({ x: moves[m].x + dx, y: moves[m].y + dy });
  }
  look(close);
  return { moves, whole: Float32Array.from(whole), stretches: Float32Array.from(stretches) };
}

/** Share of the cover, looked at in a few places, for which a move finds a donor. */
function servedShare(field: Field, move: Move, places: number): number {
  const { pixels } = field;
  const step = Math.max(1, Math.floor(pixels.length / places));
  let served = 0;
  let all = 0;
  for (let n = step >> 1; n < pixels.length; n += step, all++) if (donorOf(field, pixels[n], move) >= 0) served++;
  return served / Math.max(1, all);
}

const near = (a: Move, b: Move) => Math.abs(a.x - b.x) <= 1 && Math.abs(a.y - b.y) <= 1;

function wholeRing({ moves, whole }: RingTable): Move[] {
  const order = [...whole.keys()].sort((a, b) => whole[a] - whole[b]);
  const out: Move[] = [];
  for (const m of order) {
    if (out.length >= RINGS / 2) break;
    if (!out.some((o) => near(o, moves[m]))) out.push(moves[m]);
  }
  return out;
}

/** Moves chosen one after another, each for what it mends of the stretches that the ones before left badly met. */
function stretchesOfRing({ moves, stretches }: RingTable): Move[] {
  const left = new Float32Array(STRETCHES).fill(1);
  const out: Move[] = [];
  const done = new Set<number>();
  for (let n = 0; n < RINGS / 2; n++) {
    if (n % 6 === 0) left.fill(1);
    let best = -1;
    let most = 0;
    for (let m = 0; m < moves.length; m++) {
      if (done.has(m)) continue;
      let gain = 0;
      for (let s = 0; s < STRETCHES; s++) gain += Math.max(0, left[s] - stretches[m * STRETCHES + s]);
      if (gain > most) {
        most = gain;
        best = m;
      }
    }
    if (best < 0) break;
    for (let m = 0; m < moves.length; m++) if (near(moves[m], moves[best])) done.add(m);
    out.push(moves[best]);
    for (let s = 0; s < STRETCHES; s++) left[s] = Math.min(left[s], stretches[best * STRETCHES + s]);
  }
  return out;
}

/** The commonest moves between patches of the known area and their likes. */
function commonMoves(field: Field, level: Level, seed: number): Proposed {
  const { width, height } = level;
  const kernels = new Kernels();
  const n = width * height;
  const centres: number[] = [];
  const ok = new Uint8Array(n);
  // A patch counts when all of it is known; by running sums of unknown pixels.
  const bad = new Int32Array((width + 1) * (height + 1));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      bad[(y + 1) * (width + 1) + x + 1] =
        (level.allowed[y * width + x] ? 0 : 1) +
        bad[y * (width + 1) + x + 1] +
        bad[(y + 1) * (width + 1) + x] -
        bad[y * (width + 1) + x];
  for (let y = PATCH; y < height - PATCH; y++) {
    for (let x = PATCH; x < width - PATCH; x++) {
      const [x0, y0, x1, y1] = [x - PATCH, y - PATCH, x + PATCH + 1, y + PATCH + 1];
      const unknown =
        bad[y1 * (width + 1) + x1] -
        bad[y0 * (width + 1) + x1] -
        bad[y1 * (width + 1) + x0] +
        bad[y0 * (width + 1) + x0];
      if (unknown) continue;
      ok[y * width + x] = 1;
      centres.push(x, y);
    }
  }
  const count = centres.length / 2;
  if (count < 50) return { moves: [], regular: 0 };
  const pixelsAt = kernels.reserve(n * 4 + 16);
  const okAt = kernels.reserve(n);
  const centresAt = kernels.reserve(count * 8);
  const indexAt = kernels.reserve(n * 4);
  const matchAt = kernels.reserve(count * 8);
  const distAt = kernels.reserve(count * 4);
  kernels.u8(pixelsAt, n * 4).set(level.pixels);
  kernels.u8(okAt, n).set(ok);
  kernels.i32(centresAt, count * 2).set(centres);
  const index = kernels.i32(indexAt, n);
  index.fill(-1);
  const match = kernels.i32(matchAt, count * 2);
  let state = (Math.imul(seed, 2654435761) ^ 0x51ed270b) >>> 0 || 1;
  const random = (below: number) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return Math.floor((state / 4294967296) * below);
  };
  for (let i = 0; i < count; i++) {
    index[centres[2 * i + 1] * width + centres[2 * i]] = i;
    let pick = i;
    for (let t = 0; t < 20; t++) {
      pick = random(count);
      const far = (centres[2 * pick] - centres[2 * i]) ** 2 + (centres[2 * pick + 1] - centres[2 * i + 1]) ** 2;
      if (far >= LEAST_MOVE ** 2) break;
    }
    match[2 * i] = centres[2 * pick];
    match[2 * i + 1] = centres[2 * pick + 1];
  }
  kernels.run.seed((seed * 40503 + 77) >>> 0);
  kernels.run.measure(pixelsAt, width, pixelsAt, width, PATCH, centresAt, count, matchAt, distAt);
  for (let pass = 0; pass < 5; pass++) {
    kernels.run.offsetPass(
      pixelsAt,
      width,
      height,
      PATCH,
      okAt,
      centresAt,
      count,
      indexAt,
      matchAt,
      distAt,
      pass & 1,
      Math.max(width, height),
      LEAST_MOVE * LEAST_MOVE,
    );
  }
  const found = kernels.i32(matchAt, count * 2);
  const across = 2 * width + 1;
  const counts = new Float32Array(across * (2 * height + 1));
  for (let i = 0; i < count; i++) {
    const dx = found[2 * i] - centres[2 * i];
    const dy = found[2 * i + 1] - centres[2 * i + 1];
    counts[(dy + height) * across + dx + width]++;
    counts[(height - dy) * across + width - dx]++;
  }
  const moves = peaksOf(field, counts, across, width, height);
  const often = moves.slice(0, MAIN);
  let regular = 0;
  for (let i = 0; i < count; i++) {
    const x = found[2 * i] - centres[2 * i];
    const y = found[2 * i + 1] - centres[2 * i + 1];
    if (often.some((m) => near(m, { x, y }) || near(m, { x: -x, y: -y }))) regular++;
  }
  return { moves, regular: regular / count };
}

/** Peaks of the smoothed histogram of moves, the highest first, none beside a higher one. */
function peaksOf(field: Field, counts: Float32Array, across: number, width: number, height: number): Move[] {
  const high = counts.length / across;
  const soft = new Float32Array(counts.length);
  const kernel = [0.06, 0.24, 0.4, 0.24, 0.06];
  const mid = new Float32Array(counts.length);
  for (let i = 2; i < counts.length - 2; i++)
    mid[i] = kernel.reduce((sum, k, n) => sum + (k === 0 ? 0 : k * counts[i + n - 2]), 0);
  for (let i = 2 * across; i < counts.length - 2 * across; i++) {
    let sum = 0;
    for (let n = 0; n < 5; n++) sum += kernel[n] * mid[i + (n - 2) * across];
    soft[i] = sum;
  }
  const peaks: Array<{ at: number; value: number }> = [];
  const reach = 3;
  for (let y = reach; y < high - reach; y++) {
    for (let x = reach; x < across - reach; x++) {
      const i = y * across + x;
      const value = soft[i];
      if (value < 1) continue;
      let top = true;
      for (let v = -reach; v <= reach && top; v++)
        for (let u = -reach; u <= reach && top; u++) {
          const other = soft[i + v * across + u];
          if (other > value || (other === value && (v < 0 || (v === 0 && u < 0)))) top = false;
        }
      if (top) peaks.push({ at: i, value });
    }
  }
  peaks.sort((a, b) => b.value - a.value || a.at - b.at);
  const out: Move[] = [];
  for (const { at } of peaks) {
    const move = { x: (at % across) - width, y: Math.floor(at / across) - height };
    if (servedShare(field, move, 40) <= 0) continue;
    out.push(move);
    if (out.length >= PEAKS) break;
  }
  return out;
}

/** For patches along the border, where their known part is found best. */
function borderMatches(field: Field, level: Level): Move[] {
  const { width, height, index, known, pixels, allowed } = field;
  const border: number[] = [];
  for (const p of pixels) {
    const x = p % width;
    const y = (p - x) / width;
    if (
      (x > 0 && index[p - 1] < 0) ||
      (x + 1 < width && index[p + 1] < 0) ||
      (y > 0 && index[p - width] < 0) ||
      (y + 1 < height && index[p + width] < 0)
    )
      border.push(p);
  }
  const step = Math.max(1, Math.floor(border.length / BORDERS));
  const out: Move[] = [];
  const R = 5;
  const luma = new Float32Array(width * height);
  for (let i = 0; i < luma.length; i++)
    luma[i] = 0.3 * level.pixels[4 * i] + 0.59 * level.pixels[4 * i + 1] + 0.11 * level.pixels[4 * i + 2];
  for (let n = step >> 1; n < border.length; n += step) {
    const p = border[n];
    const px = p % width;
    const py = (p - px) / width;
    const spots: number[] = [];
    for (let v = -R; v <= R; v++)
      for (let u = -R; u <= R; u++) {
        const [x, y] = [px + u, py + v];
        if (x < 0 || y < 0 || x >= width || y >= height || !known[y * width + x]) continue;
        spots.push(v * width + u);
      }
    if (spots.length < 12) continue;
    let best = Infinity;
    let move: Move | null = null;
    const look = (x: number, y: number) => {
      const q = y * width + x;
      if (!allowed[q]) return;
      let sum = 0;
      for (let k = 0; k < spots.length && sum < best; k++) {
        const a = 4 * (p + spots[k]);
        const b = 4 * (q + spots[k]);
        if (!known[q + spots[k]]) {
          sum = Infinity;
          break;
        }
        const r = level.pixels[a] - level.pixels[b];
        const g = level.pixels[a + 1] - level.pixels[b + 1];
        const c = level.pixels[a + 2] - level.pixels[b + 2];
        sum += r * r + g * g + c * c;
      }
      if (sum < best) {
        best = sum;
        move = { x: x - px, y: y - py };
      }
    };
    for (let y = R; y < height - R; y += 2)
      for (let x = R; x < width - R; x += 2) if (Math.abs(x - px) + Math.abs(y - py) >= LEAST_MOVE) look(x, y);
    const found = move as Move | null;
    if (!found) continue;
    const [fx, fy] = [px + found.x, py + found.y];
    for (let y = Math.max(R, fy - 1); y <= Math.min(height - R - 1, fy + 1); y++)
      for (let x = Math.max(R, fx - 1); x <= Math.min(width - R - 1, fx + 1); x++) look(x, y);
    if (move) out.push(move);
  }
  return out;
}

/** Adds moves until every covered pixel finds a donor by one of them. */
function serveAll(field: Field, moves: Move[]): Move[] {
  const { pixels } = field;
  const served = new Uint8Array(pixels.length);
  for (const move of moves) pixels.forEach((p, n) => (served[n] ||= donorOf(field, p, move) >= 0 ? 1 : 0));
  const out = moves.slice();
  for (let n = 0; n < pixels.length; n++) {
    if (served[n]) continue;
    const move = nearestDonor(field, pixels[n]);
    if (!move) break;
    out.push(move);
    pixels.forEach((p, m) => (served[m] ||= donorOf(field, p, move) >= 0 ? 1 : 0));
  }
  return out;
}

/** The shortest move from a pixel to a place that may be taken, in rings around it; null when there is none. */
function nearestDonor(field: Field, p: number): Move | null {
  const most = Math.max(field.width, field.rows);
  for (let r = 1; r <= most; r++) {
    for (let k = -r; k <= r; k++) {
      for (const [x, y] of [
        [k, -r],
        [k, r],
        [-r, k],
        [r, k],
      ])
        if (donorOf(field, p, { x, y }) >= 0) return { x, y };
    }
  }
  return null;
}
