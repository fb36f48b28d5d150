import { withKernels, type Kernels } from '../../kernels/memory.ts';
import { lumaOf } from '../../raster/planes.ts';
import {
  energyOf,
  K,
  MIN_SAMPLES,
  MODEL_RADIUS,
  MOMENTS,
  OFFSETS,
  pairWeights,
  type Moments,
} from './gaussian-model.ts';
import { nearCover } from '../../mask/near.ts';
import { joinSides } from './joins.ts';
import { peel } from './peel.ts';
import { runStraightOn } from './straight-on.ts';

const TILE = 40;
/** Tiles to each side that a tile's model sees as well, the less of them the farther they are. */
const WINDOW = 2;
/** Passes of the membrane that comes first, and of the prediction: for covers of at most so many layers, and for deeper ones. */
const BASE_SWEEPS = 18;
const SWEEPS = { thin: 16, deep: 20, layers: 4 };
const OMEGA = 1.5;

/** One block of a picture for {@link predictBlock}. */
export interface PredictBlock {
  /** width × height pixels of four floats (0…255); what stands at unknown pixels is ignored */
  image: Float32Array;
  width: number;
  height: number;
  /** colour lanes in use */
  colours: 1 | 3;
  /** 1 where pixels are to be predicted */
  cover: Uint8Array;
  /** place of the block in the picture, so that the tiles of neighbouring blocks coincide */
  originX: number;
  originY: number;
  /** whether sharp straight edges that it would draw out are carried straight on */
  straight?: boolean;
}

/** What {@link predictBlock} has filled. */
export interface Prediction {
  /** covered pixels as y × width + x */
  covered: Int32Array;
  /** how many px into the cover each of them lies, from 1 */
  layers: Uint16Array;
}

/**
 * Fills thin covers by the conditional mean of a locally fitted Gaussian Markov random field, starting from the membrane; where
 * edges meet on both sides of a strand they are joined. `block.image` is completed in place.
 *
 *
 * Source: conditional autoregressive models after Besag, "Spatial Interaction and the Statistical Analysis of Lattice
 * Systems", 1974; fitted by pseudo-likelihood (least squares).
 */
export function predictBlock(block: PredictBlock): Prediction {
  return withKernels((kernels) => predictWith(kernels, block));
}

function predictWith(kernels: Kernels, block: PredictBlock): Prediction {
  const { image, width, height, cover, colours } = block;
  const covered = coveredPixels(cover);
  const layers = peel(image, width, height, cover, covered);

  const pad = MODEL_RADIUS + 1;
  // Eight pixels of a row are read at once.
  const pw = (width + 2 * pad + 15) & ~7;
  const ph = height + 2 * pad;
  const imageAt = kernels.reserve(pw * ph * 16);
  const lumaAt = kernels.reserve((pw * ph + 16) * 4);
  const okAt = kernels.reserve(pw * ph + 16);
  const offsetsAt = kernels.put(Int32Array.from(OFFSETS, ([x, y]) => (y * pw + x) * 16));
  const lumaOffsetsAt = kernels.put(Int32Array.from(OFFSETS, ([x, y]) => (y * pw + x) * 4));
  const scratchAt = kernels.reserve((K + 1) * 32);
  const momentsAt = kernels.reserve(MOMENTS * 16);

  const tileX0 = Math.floor(block.originX / TILE);
  const tileY0 = Math.floor(block.originY / TILE);
  const tilesWide = Math.floor((block.originX + width - 1) / TILE) - tileX0 + 1;
  const tilesHigh = Math.floor((block.originY + height - 1) / TILE) - tileY0 + 1;
  const used = new Uint8Array(tilesWide * tilesHigh);
  const column = new Int32Array(width);
  for (let x = 0; x < width; x++) column[x] = Math.floor((block.originX + x) / TILE) - tileX0;
  const pixels = new Int32Array(covered.length);
  const tiles = new Int32Array(covered.length);
  for (let n = 0; n < covered.length; n++) {
    const x = covered[n] % width;
    const y = (covered[n] - x) / width;
    pixels[n] = (y + pad) * pw + x + pad;
    tiles[n] = (Math.floor((block.originY + y) / TILE) - tileY0) * tilesWide + column[x];
    used[tiles[n]] = 1;
  }
  const pixelsAt = kernels.put(pixels);
  const tilesAt = kernels.put(tiles);
  const plainAt = kernels.put(new Float32Array(used.length * 2).fill(0.25));
  const weightsAt = kernels.reserve(used.length * K * 4);
  const joins = joinSides(image, width, height, layers, covered);
  const { leans, values } = joins;
  const leansAt = kernels.put(leans);
  const valuesAt = kernels.put(values);

  const target = kernels.f32(imageAt, pw * ph * 4);
  const luma = kernels.f32(lumaAt, pw * ph + 16).fill(0);
  const plain = lumaOf(image, colours);
  for (let y = 0; y < ph; y++) {
    const from = Math.min(height - 1, Math.max(0, y - pad)) * width;
    const to = y * pw;
    target.set(image.subarray(4 * from, 4 * (from + width)), 4 * (to + pad));
    luma.set(plain.subarray(from, from + width), to + pad);
    // The edge is repeated to both sides.
    for (let x = 0; x < pw; x++) {
      if (x === pad) x = pad + width;
      const edge = from + (x < pad ? 0 : width - 1);
      target.set(image.subarray(4 * edge, 4 * edge + 4), 4 * (to + x));
      luma[to + x] = plain[edge];
    }
  }
  const ok = kernels.u8(okAt, pw * ph + 16).fill(0);
  const near = nearCover(cover, width, height, covered, MODEL_RADIUS);
  for (let y = MODEL_RADIUS; y < height - MODEL_RADIUS; y++) {
    for (let x = MODEL_RADIUS; x < width - MODEL_RADIUS; x++) {
      if (!near[y * width + x]) ok[(y + pad) * pw + x + pad] = 1;
    }
  }
  const relax = (weights: number, k: number, count: number, omega: number, lean = 0, value = 0) => {
    for (let s = 0; s < count; s++)
      kernels.run.relax(imageAt, pixelsAt, covered.length, tilesAt, weights, offsetsAt, k, s & 1, omega, lean, value);
  };
  // The membrane first: the two direct pairs at a quarter each.
  relax(plainAt, 2, BASE_SWEEPS, 1.7);

  // Moments a tile, each known pixel counted once; a model sees those of all tiles in its window.
  const view = kernels.f32(momentsAt, MOMENTS * 4);
  const perTile = new Array<Moments | undefined>(used.length);
  const momentsOf = (tx: number, ty: number) => {
    const t = ty * tilesWide + tx;
    const known = perTile[t];
    if (known) return known;
    view.fill(0);
    const x0 = Math.max(0, (tileX0 + tx) * TILE - block.originX);
    const y0 = Math.max(0, (tileY0 + ty) * TILE - block.originY);
    const x1 = Math.min(width, (tileX0 + tx + 1) * TILE - block.originX);
    const y1 = Math.min(height, (tileY0 + ty + 1) * TILE - block.originY);
    const at = [x0 + pad, y0 + pad, x1 + pad, y1 + pad];
    const samples = kernels.run.accumulate(lumaAt, pw, okAt, ...at, lumaOffsetsAt, K, scratchAt, momentsAt);
    const sums = new Float64Array(MOMENTS);
    for (let i = 0, k = 0; i < MOMENTS; i++, k += 4) sums[i] = view[k] + view[k + 1] + view[k + 2] + view[k + 3];
    return (perTile[t] = { sums, samples });
  };
  const weights = kernels.f32(weightsAt, used.length * K);
  for (let ty = 0; ty < tilesHigh; ty++) {
    for (let tx = 0; tx < tilesWide; tx++) {
      if (!used[ty * tilesWide + tx]) continue;
      const sums = new Float64Array(MOMENTS);
      let samples = 0;
      const here = momentsOf(tx, ty);
      const own = here.samples >= MIN_SAMPLES ? energyOf(here) : Infinity;
      for (let dy = -WINDOW; dy <= WINDOW; dy++) {
        for (let dx = -WINDOW; dx <= WINDOW; dx++) {
          if (tx + dx < 0 || ty + dy < 0 || tx + dx >= tilesWide || ty + dy >= tilesHigh) continue;
          const part = momentsOf(tx + dx, ty + dy);
          if (!part.samples) continue;
          const close = (1 - Math.abs(dx) / (WINDOW + 1)) * (1 - Math.abs(dy) / (WINDOW + 1));
          const weight = close * Math.min(1, own / energyOf(part));
          samples += weight * part.samples;
          const from = part.sums;
          for (let i = 0; i < MOMENTS; i++) sums[i] += weight * from[i];
        }
      }
      pairWeights(sums, samples, weights, (ty * tilesWide + tx) * K);
    }
  }
  const deepest = layers.reduce((a, b) => Math.max(a, b), 0);
  const predicted = () => {
    relax(weightsAt, K, deepest <= SWEEPS.layers ? SWEEPS.thin : SWEEPS.deep, OMEGA, leansAt, valuesAt);
    const at = kernels.f32(imageAt, pw * ph * 4);
    for (let n = 0; n < covered.length; n++) {
      const from = pixels[n] * 4;
      const to = covered[n] * 4;
      for (let c = 0; c < colours; c++) image[to + c] = Math.min(255, Math.max(0, at[from + c]));
    }
  };
  predicted();
  if (block.straight && runStraightOn(block, covered, joins)) {
    kernels.f32(leansAt, leans.length).set(leans);
    kernels.f32(valuesAt, values.length).set(values);
    predicted();
  }
  return { covered, layers };
}

function coveredPixels(cover: Uint8Array): Int32Array {
  let count = 0;
  for (let i = 0; i < cover.length; i++) if (cover[i]) count++;
  const out = new Int32Array(count);
  for (let i = 0, n = 0; i < cover.length; i++) if (cover[i]) out[n++] = i;
  return out;
}
