import { Kernels } from '../../../kernels/memory.ts';
import { near, servedShare, type Field, type Move } from './field.ts';
import { LANES } from './features.ts';

/** How many moves are proposed by the ring. */
const RINGS = 40;
/** Width in px of the ring around the cover. */
const RING = 4;
/** Distance at which a pixel of the ring counts as badly matched. */
const MISMATCH = 28;

/** Moves that lay a ring around the cover onto something alike: some by the whole ring, others by one stretch of it after another. */
export function ringMoves(field: Field): Move[] {
  const table = ringTable(field, ringOf(field));
  return [...wholeRing(table), ...stretchesOfRing(table)];
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
