import { Kernels } from '../../kernels/memory.ts';
import { solvePoissonChannels } from '../poisson.ts';
import { lumaOf } from '../../raster/planes.ts';
import { joinSides } from './joins.ts';

/** Radius in px of the neighbourhood that predicts a pixel. */
export const MODEL_RADIUS = 5;
const TILE = 32;
/** Tiles to each side that a tile's model sees as well, the less of them the farther they are. */
const WINDOW = 2;
const MIN_SAMPLES = 60;
/** How strongly a model is held to the membrane, against what its samples would have. */
const RIDGE = 0.6;
/** Passes of the membrane that comes first, and of the prediction: for covers of at most so many layers, and for deeper ones. */
const BASE_SWEEPS = 25;
const SWEEPS = { thin: 14, deep: 24, layers: 4 };
const OMEGA = 1.75;

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
}

/** What {@link predictBlock} has filled. */
export interface Prediction {
  /** covered pixels as y × width + x */
  covered: Int32Array;
  /** how many px into the cover each of them lies, from 1 */
  layers: Uint16Array;
}

/** The half plane of offsets within the radius: each stands for itself and its mirror image. */
function halfDisc(radius: number): Array<[number, number]> {
  const out: Array<[number, number]> = [
    [1, 0],
    [0, 1],
  ];
  for (let y = 0; y <= radius; y++) {
    for (let x = -radius; x <= radius; x++) {
      if (y === 0 && x <= 0) continue;
      if (x * x + y * y > radius * radius + 1) continue;
      if ((x === 1 && y === 0) || (x === 0 && y === 1)) continue;
      out.push([x, y]);
    }
  }
  return out;
}

const OFFSETS = halfDisc(MODEL_RADIUS);
const K = OFFSETS.length;
const MOMENTS = (K * (K + 1)) / 2 + K;
const FREQUENCIES = 16;

/** For a grid of frequencies: 1 − mean cosine of the direct neighbours, and (that mean − cosine) of each offset. */
const SYMBOLS = (() => {
  const membrane: number[] = [];
  const terms: Float64Array[] = [];
  for (let v = -FREQUENCIES; v <= FREQUENCIES; v++) {
    for (let u = 0; u <= FREQUENCIES; u++) {
      if ((u === 0 && v <= 0) || (v === -FREQUENCIES && u < FREQUENCIES)) continue;
      const wx = (Math.PI * u) / FREQUENCIES;
      const wy = (Math.PI * v) / FREQUENCIES;
      const mean = (Math.cos(wx) + Math.cos(wy)) / 2;
      membrane.push(1 - mean);
      terms.push(Float64Array.from(OFFSETS, ([x, y]) => mean - Math.cos(wx * x + wy * y)));
    }
  }
  return { membrane, terms };
})();

/** Solves A x = b for symmetric positive definite A (row-major k × k, destroyed). Returns false when it is not. */
function cholesky(a: Float64Array, b: Float64Array, k: number): boolean {
  for (let i = 0; i < k; i++) {
    for (let j = 0; j <= i; j++) {
      let s = a[i * k + j];
      for (let m = 0; m < j; m++) s -= a[i * k + m] * a[j * k + m];
      if (i === j) {
        if (!(s > 0)) return false;
        a[i * k + i] = Math.sqrt(s);
      } else a[i * k + j] = s / a[j * k + j];
    }
  }
  for (let i = 0; i < k; i++) {
    let s = b[i];
    for (let m = 0; m < i; m++) s -= a[i * k + m] * b[m];
    b[i] = s / a[i * k + i];
  }
  for (let i = k - 1; i >= 0; i--) {
    let s = b[i];
    for (let m = i + 1; m < k; m++) s -= a[m * k + i] * b[m];
    b[i] = s / a[i * k + i];
  }
  return true;
}

/**
 * Largest share of the fitted departure from the membrane that keeps the model stable: its spectral symbol must stay
 * below that of a unit root at every frequency, with some room.
 */
function stableShare(a: Float64Array): number {
  let share = 1;
  for (let f = 0; f < SYMBOLS.membrane.length; f++) {
    const term = SYMBOLS.terms[f];
    let g = 0;
    for (let i = 0; i < K; i++) g += a[i] * term[i];
    const room = SYMBOLS.membrane[f] * 0.985;
    if (g < -room) share = Math.min(share, room / -g);
  }
  return share;
}

function pairWeights(moments: Float64Array, samples: number, out: Float32Array, at: number): void {
  out.fill(0, at, at + K);
  out[at] = out[at + 1] = 0.25;
  if (samples < MIN_SAMPLES) return;
  const a = new Float64Array(K * K);
  const b = new Float64Array(K);
  let m = 0;
  let trace = 0;
  for (let i = 0; i < K; i++) {
    for (let j = 0; j <= i; j++) a[i * K + j] = a[j * K + i] = moments[m++];
    trace += a[i * K + i];
  }
  for (let i = 0; i < K; i++) b[i] = moments[m++];
  const ridge = (trace / K) * RIDGE * Math.min(1, 400 / samples) + samples * 0.02;
  for (let i = 0; i < K; i++) a[i * K + i] += ridge;
  if (!cholesky(a, b, K)) return;
  const share = stableShare(b);
  let sum = 0;
  for (let i = 0; i < K; i++) {
    const w = b[i] * share;
    sum += w;
    out[at + i] = w / 2;
  }
  out[at] += (1 - sum) / 4;
  out[at + 1] += (1 - sum) / 4;
}

/** Sums over the known pixels of a tile: products of what predicts, by rows of the lower triangle, and with what is predicted. */
interface Moments {
  sums: Float64Array;
  samples: number;
}

/** Mean square of what a tile's model predicts from: how much goes on there. */
function energyOf({ sums, samples }: Moments): number {
  let trace = 0;
  for (let i = 0, m = 0; i < K; i++, m += i + 1) trace += sums[m];
  return trace / Math.max(1, samples) + 1e-3;
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
  const { image, width, height, cover, colours } = block;
  const covered = coveredPixels(cover);
  const layers = peel(image, width, height, cover, covered);

  const pad = MODEL_RADIUS + 1;
  // Eight pixels of a row are read at once.
  const pw = (width + 2 * pad + 15) & ~7;
  const ph = height + 2 * pad;
  const kernels = new Kernels();
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
  const tileOf = (x: number, y: number) =>
    (Math.floor((block.originY + y) / TILE) - tileY0) * tilesWide + Math.floor((block.originX + x) / TILE) - tileX0;
  const used = new Uint8Array(tilesWide * tilesHigh);
  const pixels = new Int32Array(covered.length);
  const tiles = new Int32Array(covered.length);
  covered.forEach((i, n) => {
    const x = i % width;
    const y = (i - x) / width;
    pixels[n] = (y + pad) * pw + x + pad;
    tiles[n] = tileOf(x, y);
    used[tiles[n]] = 1;
  });
  const pixelsAt = kernels.put(pixels);
  const tilesAt = kernels.put(tiles);
  const plainAt = kernels.put(new Float32Array(used.length * 2).fill(0.25));
  const weightsAt = kernels.reserve(used.length * K * 4);
  const { leans, values } = joinSides(image, width, height, cover, covered);
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
      if (x >= pad && x < pad + width) continue;
      const edge = from + (x < pad ? 0 : width - 1);
      target.set(image.subarray(4 * edge, 4 * edge + 4), 4 * (to + x));
      luma[to + x] = plain[edge];
    }
  }
  const ok = kernels.u8(okAt, pw * ph + 16).fill(0);
  const near = grown(cover, width, height, covered, MODEL_RADIUS);
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
  const perTile: Array<Moments | undefined> = new Array(used.length);
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
    for (let i = 0; i < MOMENTS; i++) sums[i] = view[4 * i] + view[4 * i + 1] + view[4 * i + 2] + view[4 * i + 3];
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
  relax(weightsAt, K, deepest <= SWEEPS.layers ? SWEEPS.thin : SWEEPS.deep, OMEGA, leansAt, valuesAt);
  for (let n = 0; n < covered.length; n++) {
    const from = pixels[n] * 4;
    const to = covered[n] * 4;
    for (let c = 0; c < colours; c++) image[to + c] = Math.min(255, Math.max(0, target[from + c]));
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

/** 1 within so many px of the cover, by squares. */
function grown(cover: Uint8Array, width: number, height: number, covered: Int32Array, by: number): Uint8Array {
  const out = new Uint8Array(cover.length);
  for (const i of covered) {
    const x = i % width;
    const y = (i - x) / width;
    const inner = x > 0 && x + 1 < width && y > 0 && y + 1 < height;
    // Only the cover's border reaches beyond it.
    if (inner && cover[i - 1] && cover[i + 1] && cover[i - width] && cover[i + width]) {
      out[i] = 1;
      continue;
    }
    const x0 = Math.max(0, x - by);
    const x1 = Math.min(width, x + by + 1);
    for (let v = Math.max(0, y - by); v <= Math.min(height - 1, y + by); v++)
      out.fill(1, v * width + x0, v * width + x1);
  }
  return out;
}

/**
 * First guess at covered pixels, layer by layer from the border: the mean of the neighbours that are there. In place.
 * @returns the layer of each, from 1
 */
function peel(image: Float32Array, width: number, height: number, cover: Uint8Array, covered: Int32Array): Uint16Array {
  const left = cover.slice();
  const layers = new Uint16Array(covered.length);
  // Places in `covered` of those that are still to be done.
  let layer: number[] = Array.from(covered, (_, n) => n);
  for (let depth = 1; layer.length; depth++) {
    const next: number[] = [];
    const done: number[] = [];
    for (const place of layer) {
      const i = covered[place];
      layers[place] = depth;
      const x = i % width;
      const y = (i - x) / width;
      let n = 0;
      let [r, g, b] = [0, 0, 0];
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++) {
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) {
          const j = v * width + u;
          if (left[j]) continue;
          r += image[4 * j];
          g += image[4 * j + 1];
          b += image[4 * j + 2];
          n++;
        }
      }
      if (!n) {
        next.push(place);
        continue;
      }
      image[4 * i] = r / n;
      image[4 * i + 1] = g / n;
      image[4 * i + 2] = b / n;
      done.push(i);
    }
    if (!done.length) {
      // All is covered: middle grey.
      for (const place of next) image.fill(128, 4 * covered[place], 4 * covered[place] + 3);
      return layers;
    }
    for (const i of done) left[i] = 0;
    layer = next;
  }
  return layers;
}

/** Completes the covered pixels of a four-lane float image by membrane interpolation, in place. */
export function membrane(
  image: Float32Array,
  width: number,
  height: number,
  cover: Uint8Array,
  colours: number,
  tolerance = 0.1,
): void {
  const planes: Float32Array[] = [];
  for (let c = 0; c < colours; c++) {
    const plane = new Float32Array(width * height);
    let sum = 0;
    let count = 0;
    for (let i = 0; i < plane.length; i++) {
      plane[i] = image[i * 4 + c];
      if (!cover[i]) {
        sum += plane[i];
        count++;
      }
    }
    const mean = count ? sum / count : 128;
    for (let i = 0; i < plane.length; i++) if (cover[i]) plane[i] = mean;
    planes.push(plane);
  }
  solvePoissonChannels(planes, cover, width, height, undefined, { tolerance });
  for (let c = 0; c < colours; c++) {
    for (let i = 0; i < cover.length; i++) if (cover[i]) image[i * 4 + c] = planes[c][i];
  }
}
