import { Kernels } from '../../../kernels/memory.ts';
import { allowedCentres } from '../search.ts';
import type { Layout } from './decide.ts';
import type { Level } from './levels.ts';

/** Half the side in px of the patches that are compared. */
const PATCH = 3;
const PASSES = 5;

/**
 * The level as a layout leaves it, without corrections of tone.
 */
export function composed(level: Level, { labels, moves }: Pick<Layout, 'labels' | 'moves'>): Uint8Array {
  const out = level.pixels.slice();
  for (let i = 0; i < labels.length; i++) {
    if (labels[i] < 0) continue;
    const { x, y } = moves[labels[i]];
    const from = 4 * (i + y * level.width + x);
    for (let c = 0; c < 3; c++) out[4 * i + c] = level.pixels[from + c];
  }
  return out;
}

/**
 * How far a fill is from looking like its surroundings: for every patch of it the difference to the patch of the known area that
 * is most like it, root mean square on the 8-bit scale, averaged. Small where courses, bars and texture run on; large where a seam
 * shows or a line is broken.
 *
 * Source: coherence after Simakov, Caspi, Shechtman & Irani, "Summarizing Visual Data Using Bidirectional Similarity", CVPR 2008.
 */
export function incoherence(level: Level, pixels: Uint8Array, seed: number): number {
  const { width, height, known, allowed, cover } = level;
  const n = width * height;
  const ok = allowedCentres(allowed, width, height, PATCH);
  const centres: number[] = [];
  const donors: number[] = [];
  // Whole patches only, of which some is filled and nothing is left unknown.
  const readable = known.map((v, i) => v | cover[i]);
  const whole = allowedCentres(readable, width, height, PATCH);
  for (let y = PATCH; y < height - PATCH; y++) {
    for (let x = PATCH; x < width - PATCH; x++) {
      const i = y * width + x;
      if (ok[i]) donors.push(x, y);
      if (whole[i] && cover[i]) centres.push(x, y);
    }
  }
  const count = centres.length / 2;
  if (!count || !donors.length) return Infinity;
  const k = new Kernels();
  const pixelsAt = k.reserve(4 * n + 16);
  const okAt = k.reserve(n);
  const centresAt = k.reserve(8 * count);
  const indexAt = k.reserve(4 * n);
  const matchAt = k.reserve(8 * count);
  const distAt = k.reserve(4 * count);
  k.u8(pixelsAt, 4 * n).set(pixels);
  k.u8(okAt, n).set(ok);
  k.i32(centresAt, 2 * count).set(centres);
  const index = k.i32(indexAt, n).fill(-1);
  const match = k.i32(matchAt, 2 * count);
  let state = (Math.imul(seed, 747796405) ^ 0x2545f491) >>> 0 || 1;
  for (let i = 0; i < count; i++) {
    index[centres[2 * i + 1] * width + centres[2 * i]] = i;
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    const pick = Math.floor((state / 4294967296) * (donors.length / 2));
    match[2 * i] = donors[2 * pick];
    match[2 * i + 1] = donors[2 * pick + 1];
  }
  k.run.seed((seed * 2246822519 + 3) >>> 0);
  k.run.measure(pixelsAt, width, pixelsAt, width, PATCH, centresAt, count, matchAt, distAt);
  for (let pass = 0; pass < PASSES; pass++)
    k.run.searchPass(
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
    );
  let sum = 0;
  for (const d of k.i32(distAt, count)) sum += Math.sqrt(d / (3 * (2 * PATCH + 1) ** 2));
  return sum / count;
}
