import { nearCover } from '../../mask/near.ts';
import type { Point } from '../../mask/shapes.ts';
import { blur, lumaOf, spread } from '../../raster/planes.ts';
import { GRAIN_SIGMA } from './settings.ts';
import { CROWD, groundOf, longAt, meanWhere, pixelsOf, UNMASKED } from './grain.ts';

/** Side in px of the squares in which grain is laid from one and the same place, and where that may be. */
const SQUARE = 24;
const ASIDE = [14, 22, 32].flatMap((reach) =>
  Array.from({ length: 12 }, (_, k): Point => {
    const angle = (k * Math.PI) / 6;
    return [Math.round(reach * Math.cos(angle)), Math.round(reach * Math.sin(angle))];
  }),
);
/** One pixel in so many of a square is looked at to choose the place. */
const SAMPLED = 3;
/** Clean px around a place that grain is taken from. */
const CLEAN = 3;
/** Share of all variation that is fine detail: from the first on ground counts as partly, from the second as wholly even. */
const EVEN: [number, number] = [0.6, 0.85];
/** Energy of grain aimed at on even ground, as a share of what is around. */
const EVEN_AIM = 0.85;

/**
 * Gives covered pixels on even ground, as a sky, the grain that is still missing there, in place. On such ground nothing
 * hides a soft streak, and a prediction deep in a cover has no detail that could be multiplied; so detail of known pixels
 * a little aside is laid on it, as much as is missing. Where the picture has structure nothing is done: its detail would
 * be in the wrong place. It acts on luma only.
 *
 * @param image width × height pixels of four floats, already completed
 * @param options place of the image in the picture, so that neighbouring blocks lay the same squares
 * Source: common practice of retouching (grain is laid over what was smoothed); how much, own measurement.
 */
export function layGrain(
  image: Float32Array,
  width: number,
  height: number,
  cover: Uint8Array,
  colours: 1 | 3,
  { originX = 0, originY = 0 }: { originX?: number; originY?: number } = {},
): void {
  const pixels = pixelsOf(cover);
  const crowd = spread(new Float32Array(cover), width, height, CROWD);
  if (!pixels.some((i) => longAt(crowd[i]) > 0)) return;
  const luma = lumaOf(image, colours);
  const soft = blur(luma, width, height, GRAIN_SIGMA);
  const { around, known, covered } = groundOf(luma, soft, width, height, cover, pixels);
  const slow = blur(luma, width, height, 3 * GRAIN_SIGMA);
  const all = meanWhere(luma, slow, width, height, known, pixels);
  const here = meanWhere(luma, soft, width, height, covered, pixels);
  // Ground that is even, under a cover that is seen: a lone speck that is soft is not, and much detail hides what little is missing.
  const seen = new Float32Array(cover.length);
  const poor: number[] = [];
  for (const i of pixels) {
    const even = Math.min(1, Math.max(0, (around[i] / (all[i] + 1e-3) - EVEN[0]) / (EVEN[1] - EVEN[0])));
    seen[i] = (even * longAt(crowd[i]) * 2 * UNMASKED) / (2 * UNMASKED + around[i]);
    if (seen[i] > 0) poor.push(i);
  }
  if (!poor.length) return;
  const near = nearCover(cover, width, height, pixels, CLEAN);
  const aside = (i: number, shift: Point): number => {
    const x = (i % width) + shift[0];
    const y = Math.floor(i / width) + shift[1];
    const from = y * width + x;
    return x >= 0 && y >= 0 && x < width && y < height && !near[from] ? from : -1;
  };
  for (const members of squaresOf(poor, width, originX, originY)) {
    // The more of the square a place serves the better, and the more alike the grain there is.
    let best = { like: -Infinity, shift: ASIDE[0] };
    for (const shift of ASIDE) {
      let like = 0;
      for (let n = 0; n < members.length; n += SAMPLED) {
        const i = members[n];
        const from = aside(i, shift);
        if (from >= 0) like += Math.min(around[i], around[from]) / (Math.max(around[i], around[from]) + 1e-3);
      }
      if (like > best.like + 1e-6) best = { like, shift };
    }
    for (const i of members) {
      const from = aside(i, best.shift);
      if (from < 0) continue;
      const missing = Math.max(0, EVEN_AIM ** 2 * around[i] - here[i]);
      const add = seen[i] * Math.min(1, Math.sqrt(missing / (around[from] + 1e-3))) * (luma[from] - soft[from]);
      for (let c = 0; c < colours; c++) image[i * 4 + c] = Math.min(255, Math.max(0, image[i * 4 + c] + add));
    }
  }
}

/** Pixels by the squares of the picture in which they lie. */
function squaresOf(pixels: readonly number[], width: number, originX: number, originY: number): Iterable<number[]> {
  const squares = new Map<number, number[]>();
  const wide = Math.ceil((originX + width) / SQUARE) + 1;
  for (const i of pixels) {
    const [x, y] = [i % width, Math.floor(i / width)];
    const square = Math.floor((originY + y) / SQUARE) * wide + Math.floor((originX + x) / SQUARE);
    const list = squares.get(square);
    if (list) list.push(i);
    else squares.set(square, [i]);
  }
  return squares.values();
}
