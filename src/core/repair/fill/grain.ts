import { blur, lumaOf, spread } from '../../raster/planes.ts';
import { GRAIN_SIGMA } from './settings.ts';

/** Reach in px of the neighbourhood whose grain counts as a pixel's surroundings. */
const AROUND = 7;
/** Reach in px of the neighbourhood in which a change is seen against what goes on there. */
const CLOSE = 2;
/** What is aimed at in long covers beyond lone specks: their cap and clamp swallow more. */
const LONG_MORE = 0.065;
/** Reach in px within which the share of covered pixels tells a lone speck from a long cover. */
export const CROWD = 10;
/** How far a place belongs to a long cover and no lone speck, by the share of covered pixels around it. */
export const longAt = (crowd: number): number => Math.min(1, Math.max(0, (crowd - 0.12) / 0.1));
/** Variance in luma below which nothing is masked by what goes on around it. */
export const UNMASKED = 58.5;
const STEPS = 14;

/** Options of {@link matchGrain}. */
export interface GrainOptions {
  /** Most that detail may be multiplied by. Default 3.5. */
  cap?: number;
  /** Energy of detail aimed at over all, as a share of what the surroundings have. Default 0.89. */
  aim?: number;
  /** The least share aimed at in each single place of a lone speck and of a long or close-meshed cover. Default 0.4 and 0.52. */
  least?: [number, number];
}

/** Pixels that count in a mean of the surroundings, and their share around each pixel. */
interface Counted {
  counts: Float32Array;
  share: Float32Array;
}

/** What is around covered pixels; worked out once for all that is done to them. */
interface Ground {
  known: Counted;
  covered: Counted;
  /** energy of fine detail of the known pixels around */
  around: Float32Array;
}

/** Works out what is around covered pixels. */
export function groundOf(
  luma: Float32Array,
  soft: Float32Array,
  width: number,
  height: number,
  cover: Uint8Array,
  pixels: number[],
): Ground {
  const counted = (counts: Float32Array) => ({ counts, share: spread(counts, width, height, AROUND) });
  const free = new Float32Array(cover.length);
  for (let i = 0; i < free.length; i++) free[i] = cover[i] ? 0 : 1;
  const known = counted(free);
  const covered = counted(new Float32Array(cover));
  const around = meanWhere(luma, soft, width, height, known, pixels);
  return { known, covered, around };
}

/** Covered pixels as y × width + x. */
export const pixelsOf = (cover: Uint8Array): number[] => {
  const pixels: number[] = [];
  for (let i = 0; i < cover.length; i++) if (cover[i]) pixels.push(i);
  return pixels;
};

/**
 * Raises the fine detail of covered pixels towards that of the known pixels around, in place. Detail is multiplied, not
 * made up, by at most `cap`: more where much goes on, which hides what is not quite right, less in quiet places, but
 * there as well up to a share. It acts on luma only and the result stays within the range of the known pixels around.
 *
 * @param image width × height pixels of four floats, already completed
 * Source: own measurement (`npm run bench:fill`). To bring every single place to the same level costs 0.01 to 0.02 of
 * structural similarity more, since the level itself is known only roughly there.
 */
export function matchGrain(
  image: Float32Array,
  width: number,
  height: number,
  cover: Uint8Array,
  colours: 1 | 3,
  { cap = 3.5, aim = 0.89, least = [0.4, 0.52] }: GrainOptions = {},
): void {
  const pixels = pixelsOf(cover);
  const count = pixels.length;
  if (!count) return;
  const luma = lumaOf(image, colours);
  const soft = blur(luma, width, height, GRAIN_SIGMA);
  const ground = groundOf(luma, soft, width, height, cover, pixels);
  const { around } = ground;
  // Share of covered pixels in a wider reach.
  const crowd = spread(ground.covered.counts, width, height, CROWD);
  const here = meanWhere(luma, soft, width, height, ground.covered, pixels);
  const activity = varianceOf(luma, width, height);
  const { low, high } = knownRange(luma, width, height, cover);

  const detail = new Float32Array(count);
  const floor = new Float32Array(count);
  const form = new Float32Array(count);
  let wanted = 0;
  let total = 0;
  pixels.forEach((i, n) => {
    detail[n] = luma[i] - soft[i];
    // A lone speck that is a little soft is not seen; a long cover would show as a line.
    const long = longAt(crowd[i]);
    const share = least[0] + (least[1] - least[0]) * long;
    floor[n] = Math.min(cap, Math.max(1, share * Math.sqrt(around[i] / Math.max(1e-3, here[i]))));
    form[n] = 2 * activity[i] + UNMASKED;
    wanted += (aim + LONG_MORE * long) ** 2 * around[i];
    total += form[n];
  });
  for (let n = 0; n < count; n++) form[n] *= count / total;

  const raised = (n: number, push: number) => {
    const i = pixels[n];
    const gain = Math.min(cap, Math.max(floor[n], 1 + push * form[n]));
    return Math.min(high[n], Math.max(low[n], luma[i] + (gain - 1) * detail[n]));
  };
  let enough = 0;
  let much = 16;
  for (let step = 0; step < STEPS; step++) {
    const push = (enough + much) / 2;
    let energy = 0;
    for (let n = 0; n < count; n++) energy += (raised(n, push) - soft[pixels[n]]) ** 2;
    if (energy < wanted) enough = push;
    else much = push;
  }
  for (let n = 0; n < count; n++) {
    const i = pixels[n];
    const add = raised(n, enough) - luma[i];
    for (let c = 0; c < colours; c++) image[i * 4 + c] = Math.min(255, Math.max(0, image[i * 4 + c] + add));
  }
}

/**
 * Mean energy of fine detail around each pixel, taken over the pixels that count; where there are hardly any in reach, the
 * median over the `pixels` that have some. Running sums leave rounding errors below zero, which must not reach a square root.
 */
export function meanWhere(
  luma: Float32Array,
  soft: Float32Array,
  width: number,
  height: number,
  { counts, share }: Counted,
  pixels: readonly number[],
): Float32Array {
  const energy = new Float32Array(luma.length);
  for (let i = 0; i < energy.length; i++) {
    const detail = luma[i] - soft[i];
    energy[i] = counts[i] * detail * detail;
  }
  const out = spread(energy, width, height, AROUND);
  for (let i = 0; i < out.length; i++) out[i] = out[i] > 0 ? out[i] / (share[i] > 1e-4 ? share[i] : 1e-4) : 0;
  const alone = pixels.filter((i) => share[i] <= 0.02);
  if (!alone.length) return out;
  const known = Float32Array.from(
    pixels.filter((i) => share[i] > 0.02),
    (i) => out[i],
  ).sort();
  for (const i of alone) out[i] = known[known.length >> 1] ?? 0;
  return out;
}

/** Variance of luma close to each pixel. */
function varianceOf(luma: Float32Array, width: number, height: number): Float32Array {
  const ones = spread(new Float32Array(luma.length).fill(1), width, height, CLOSE);
  const mean = spread(luma, width, height, CLOSE);
  const square = spread(
    luma.map((v) => v * v),
    width,
    height,
    CLOSE,
  );
  return mean.map((m, i) => Math.max(0, square[i] / ones[i] - (m / ones[i]) ** 2));
}

/**
 * For each covered pixel the range of the known pixels up to 6 px away and of itself, found by rows, then by columns;
 * where none is that near, the range of all known ones.
 */
function knownRange(
  luma: Float32Array,
  width: number,
  height: number,
  cover: Uint8Array,
): { low: number[]; high: number[] } {
  const reach = 6;
  const rowLow = new Float32Array(luma.length);
  const rowHigh = new Float32Array(luma.length);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      let lo = Infinity;
      let hi = -Infinity;
      for (let j = i - Math.min(reach, x), end = i + Math.min(reach, width - 1 - x); j <= end; j++) {
        if (cover[j]) continue;
        if (luma[j] < lo) lo = luma[j];
        if (luma[j] > hi) hi = luma[j];
      }
      rowLow[i] = lo;
      rowHigh[i] = hi;
    }
  }
  let lowest = Infinity;
  let highest = -Infinity;
  for (let i = 0; i < luma.length; i++) {
    if (cover[i]) continue;
    if (luma[i] < lowest) lowest = luma[i];
    if (luma[i] > highest) highest = luma[i];
  }
  const low: number[] = [];
  const high: number[] = [];
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (!cover[i]) continue;
      let lo = Infinity;
      let hi = -Infinity;
      for (let v = Math.max(0, y - reach); v <= Math.min(height - 1, y + reach); v++) {
        const j = v * width + x;
        if (rowLow[j] < lo) lo = rowLow[j];
        if (rowHigh[j] > hi) hi = rowHigh[j];
      }
      const none = lo > hi;
      low.push(Math.min(luma[i], none ? lowest : lo));
      high.push(Math.max(luma[i], none ? highest : hi));
    }
  }
  return { low, high };
}
