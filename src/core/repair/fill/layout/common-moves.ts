import { Kernels } from '../../../kernels/memory.ts';
import { allowedCentres } from '../search-levels.ts';
import { near, servedShare, type Field, type Move } from './field.ts';
import type { Level } from './levels.ts';

/** How many moves are proposed. */
const PEAKS = 36;
/** Half the side in px of the patches whose likes are looked up, and the least length of a move. */
const PATCH = 3;
export const LEAST_MOVE = 6;
/** How many of the commonest moves tell whether a place is regular. */
const MAIN = 12;

/** Proposed moves, and the share of patches of the known area whose likes lie at one of a few moves: high for regular structure. */
export interface Proposed {
  moves: Move[];
  regular: number;
}

/** The commonest moves between patches of the known area and their likes. */
export function commonMoves(field: Field, level: Level, seed: number): Proposed {
  const { width, height } = level;
  const kernels = new Kernels();
  const n = width * height;
  const ok = allowedCentres(level.allowed, width, height, PATCH);
  const centres: number[] = [];
  for (let i = 0; i < n; i++) if (ok[i]) centres.push(i % width, Math.floor(i / width));
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
    kernels.run.searchPass(
      pixelsAt,
      width,
      height,
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
