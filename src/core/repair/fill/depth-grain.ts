import { blur, lumaOf, spread } from '../../raster/planes.ts';
import type { Prediction } from './predict.ts';
import { GRAIN_SIGMA } from './settings.ts';

/** Reach in px of the neighbourhood whose grain counts as a pixel's surroundings. */
const AROUND = 9;

/** How grain is brought towards that of the surroundings. */
export interface DepthGrain {
  /** share of the surroundings' standard deviation that is aimed at, px by px into the cover, the last one for all that is deeper */
  aims: number[];
  /** least and most that detail is multiplied by */
  range: [number, number];
}

export const WITH_GRAIN: DepthGrain = { aims: [0.7, 0.55, 0.52, 0.56], range: [1, 3.4] };
export const SMOOTH: DepthGrain = { aims: [0.5, 0.4, 0.35, 0.35], range: [0.7, 1.4] };

/**
 * Brings the fine detail of covered pixels towards that of the known ones around, in place, for each depth into the cover by
 * itself: a cover that is rough at its rim and smooth in its heart shows as a line. Detail is multiplied, not made up. It acts on
 * luma only, and the result stays within what the known pixels around reach.
 *
 * @param image width × height pixels of four floats, already completed
 * @param prediction covered pixels, and how many px into the cover each lies
 * Source: common practice of retouching (grain is matched last); depth bins and amounts from own measurement.
 */
export function grainByDepth(
  image: Float32Array,
  width: number,
  height: number,
  cover: Uint8Array,
  { covered, layers }: Prediction,
  colours: 1 | 3,
  { aims, range }: DepthGrain,
): void {
  const luma = lumaOf(image, colours);
  const soft = blur(luma, width, height, GRAIN_SIGMA);
  const size = width * height;
  const counts = new Float32Array(size);
  const energy = new Float32Array(size);
  const detailAt = (i: number) => luma[i] - soft[i];
  for (let i = 0; i < size; i++) {
    if (cover[i]) continue;
    const detail = luma[i] - soft[i];
    counts[i] = 1;
    energy[i] = detail * detail;
  }
  const shareAround = spread(counts, width, height, AROUND);
  const sumAround = spread(energy, width, height, AROUND);
  const gains = new Float32Array(covered.length).fill(1);
  for (let bin = 0; bin < aims.length; bin++) {
    counts.fill(0);
    energy.fill(0);
    let any = false;
    for (let n = 0; n < covered.length; n++) {
      const i = covered[n];
      if (Math.min(aims.length, layers[n]) !== bin + 1) continue;
      counts[i] = 1;
      energy[i] = detailAt(i) ** 2;
      any = true;
    }
    if (!any) continue;
    const share = spread(counts, width, height, AROUND);
    const sum = spread(energy, width, height, AROUND);
    for (let n = 0; n < covered.length; n++) {
      const i = covered[n];
      if (!counts[i] || shareAround[i] < 0.02) continue;
      const there = Math.max(0, sumAround[i]) / shareAround[i];
      const here = Math.max(1e-3, sum[i] / Math.max(1e-4, share[i]));
      gains[n] = Math.min(range[1], Math.max(range[0], aims[bin] * Math.sqrt(there / here)));
    }
  }
  for (let n = 0; n < covered.length; n++) {
    const i = covered[n];
    const add = (gains[n] - 1) * detailAt(i);
    for (let c = 0; c < colours; c++) image[4 * i + c] = Math.min(255, Math.max(0, image[4 * i + c] + add));
  }
}
