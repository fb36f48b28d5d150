import { Kernels } from '../../kernels/memory.ts';
import { distanceTransform } from '../../mask/distance.ts';
import { solvePoissonChannels } from '../poisson.ts';

/** Radius in px of the neighbourhood that predicts a pixel. */
export const MODEL_RADIUS = 5;
const TILE = 24;
/** Tiles to each side that a tile's model sees as well, the less of them the farther they are. */
const WINDOW = 3;
const MIN_SAMPLES = 60;
/** How strongly a model is held to the membrane, against what its samples would have. */
const RIDGE = 0.6;

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
 * Fills thin covers by the conditional mean of a locally fitted Gaussian Markov random field, starting from the
 * membrane. `block.image` is completed in place.
 *
 * Source: conditional autoregressive models after Besag, "Spatial Interaction and the Statistical Analysis of Lattice
 * Systems", 1974; fitted by pseudo-likelihood (least squares).
 */
export function predictBlock(block: PredictBlock, sweeps = 24): void {
  const { image, width, height, cover, colours } = block;
  membrane(image, width, height, cover, colours);

  const pad = MODEL_RADIUS + 1;
  const pw = width + 2 * pad;
  const ph = height + 2 * pad;
  const kernels = new Kernels();
  const imageAt = kernels.reserve(pw * ph * 16);
  const okAt = kernels.reserve(pw * ph);
  const offsetsAt = kernels.reserve(K * 4);
  const scratchAt = kernels.reserve(K * 16);
  const momentsAt = kernels.reserve(MOMENTS * 16);

  const tileOf = (x: number, y: number) =>
    (Math.floor((block.originY + y) / TILE) - tileY0) * tilesWide + Math.floor((block.originX + x) / TILE) - tileX0;
  const tileX0 = Math.floor(block.originX / TILE);
  const tileY0 = Math.floor(block.originY / TILE);
  const tilesWide = Math.floor((block.originX + width - 1) / TILE) - tileX0 + 1;
  const tilesHigh = Math.floor((block.originY + height - 1) / TILE) - tileY0 + 1;

  const covered: number[] = [];
  const used = new Uint8Array(tilesWide * tilesHigh);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (!cover[i]) continue;
      covered.push(i);
      used[tileOf(x, y)] = 1;
    }
  }
  const pixelsAt = kernels.reserve(covered.length * 4);
  const tilesAt = kernels.reserve(covered.length * 4);
  const weightsAt = kernels.reserve(used.length * K * 4);

  const target = kernels.f32(imageAt, pw * ph * 4);
  for (let y = 0; y < ph; y++) {
    const sy = Math.min(height - 1, Math.max(0, y - pad));
    for (let x = 0; x < pw; x++) {
      const sx = Math.min(width - 1, Math.max(0, x - pad));
      const from = (sy * width + sx) * 4;
      const to = (y * pw + x) * 4;
      target[to] = image[from];
      target[to + 1] = image[from + 1];
      target[to + 2] = image[from + 2];
      target[to + 3] = 0;
    }
  }
  const distance = distanceTransform(cover, width, height, 'inside');
  const ok = kernels.u8(okAt, pw * ph);
  for (let y = MODEL_RADIUS; y < height - MODEL_RADIUS; y++) {
    for (let x = MODEL_RADIUS; x < width - MODEL_RADIUS; x++) {
      if (distance[y * width + x] > MODEL_RADIUS + 0.15) ok[(y + pad) * pw + x + pad] = 1;
    }
  }
  kernels.i32(offsetsAt, K).set(OFFSETS.map(([x, y]) => (y * pw + x) * 16));
  const pixels = kernels.i32(pixelsAt, covered.length);
  const tiles = kernels.i32(tilesAt, covered.length);
  covered.forEach((i, n) => {
    const x = i % width;
    const y = (i - x) / width;
    pixels[n] = (y + pad) * pw + x + pad;
    tiles[n] = tileOf(x, y);
  });

  // Moments a tile, each known pixel counted once; a model sees those of all tiles in its window.
  const perTile: Array<Moments | undefined> = new Array(used.length);
  const momentsOf = (tx: number, ty: number) => {
    const t = ty * tilesWide + tx;
    const known = perTile[t];
    if (known) return known;
    const view = kernels.f32(momentsAt, MOMENTS * 4);
    view.fill(0);
    const x0 = Math.max(0, (tileX0 + tx) * TILE - block.originX);
    const y0 = Math.max(0, (tileY0 + ty) * TILE - block.originY);
    const x1 = Math.min(width, (tileX0 + tx + 1) * TILE - block.originX);
    const y1 = Math.min(height, (tileY0 + ty + 1) * TILE - block.originY);
    const samples = kernels.run.accumulate(
      imageAt,
      pw,
      okAt,
      x0 + pad,
      y0 + pad,
      x1 + pad,
      y1 + pad,
      offsetsAt,
      K,
      scratchAt,
      momentsAt,
    );
    const sums = new Float64Array(MOMENTS);
    for (let i = 0; i < MOMENTS; i++) for (let c = 0; c < colours; c++) sums[i] += view[i * 4 + c];
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
          const near = (1 - Math.abs(dx) / (WINDOW + 1)) * (1 - Math.abs(dy) / (WINDOW + 1));
          const weight = near * Math.min(1, own / energyOf(part));
          samples += weight * part.samples;
          for (let i = 0; i < MOMENTS; i++) sums[i] += weight * part.sums[i];
        }
      }
      pairWeights(sums, samples, weights, (ty * tilesWide + tx) * K);
    }
  }
  for (let s = 0; s < sweeps; s++) {
    kernels.run.relax(imageAt, pixelsAt, covered.length, tilesAt, weightsAt, offsetsAt, K, s & 1, 1);
  }
  for (let n = 0; n < covered.length; n++) {
    const from = pixels[n] * 4;
    const to = covered[n] * 4;
    for (let c = 0; c < colours; c++) image[to + c] = Math.min(255, Math.max(0, target[from + c]));
  }
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
