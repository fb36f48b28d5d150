import { median } from '../../raster/luma.ts';
import type { Sampled } from '../../raster/affine.ts';
import { fullScale, type Depth, type Raster } from '../../raster/raster.ts';
import { solvePoissonChannels } from '../poisson.ts';

/** Levels of 255 by which a rim pixel must differ from the usual difference to count as lying beyond an edge. */
const BEYOND = 22;
/** Share of the rim from which on the cover itself crosses an edge, and neither side can be left out. */
const CROSSED = 0.4;

/** What {@link adaptTone} found on the rim. */
export interface Rim {
  /** pixels of the rim */
  count: number;
  /** of them, how many lie beyond a strong edge and were left out */
  left: number;
  /** the rim lies on both sides of a strong edge */
  crossed: boolean;
}

/**
 * Gives donor colours the tone of their surroundings: the difference between picture and donor on the rim of the cover is
 * carried inwards by the membrane (Laplace) interpolation and added. Rim pixels that lie beyond a strong edge, where the
 * difference steps away from that of the rest, take no part, so that the other side's colour is not smeared in.
 *
 * @param sampled the donor's colours over the box of `picture`, changed in place inside the cover
 * @param covered 1 a pixel that is covered, box of `picture`
 * Source: Pérez, Gangnet & Blake, "Poisson Image Editing", 2003; leaving out rim pixels by the median absolute deviation is
 * common robust statistics.
 */
export function adaptTone(picture: Raster, sampled: Sampled, covered: Uint8Array): Rim {
  const { width, height, channels } = picture;
  const { colours, values, valid } = sampled;
  const unit = 255 / fullScale(picture.depth);
  const unknown = new Uint8Array(width * height);
  for (let i = 0; i < unknown.length; i++) unknown[i] = covered[i] && valid[i] ? 1 : 0;
  const rim: number[] = [];
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (unknown[i] || covered[i] || !valid[i]) continue;
      const meets =
        (x > 0 && unknown[i - 1]) ||
        (x + 1 < width && unknown[i + 1]) ||
        (y > 0 && unknown[i - width]) ||
        (y + 1 < height && unknown[i + width]);
      if (meets) rim.push(i);
    }
  }
  const difference = (i: number, c: number) => (picture.data[i * channels + c] - values[i * colours + c]) * unit;
  // Grain would hide the step: the mean over a small square of the pixels around stands for each rim pixel.
  const mean = rim.map((i) => {
    const [x0, y0] = [i % width, Math.floor(i / width)];
    let [n, sum] = [0, 0];
    for (let y = Math.max(0, y0 - 2); y <= Math.min(height - 1, y0 + 2); y++) {
      for (let x = Math.max(0, x0 - 2); x <= Math.min(width - 1, x0 + 2); x++) {
        const j = y * width + x;
        if (covered[j] || !valid[j]) continue;
        n++;
        for (let c = 0; c < colours; c++) sum += difference(j, c) / colours;
      }
    }
    return n ? sum / n : 0;
  });
  const middle = median(mean);
  const usual = 1.4826 * median(mean.map((v) => Math.abs(v - middle)));
  const far = rim.filter((_, n) => Math.abs(mean[n] - middle) > Math.max(BEYOND, 4 * usual));
  const spreadOut = usual > BEYOND;
  const crossed = spreadOut || far.length > CROSSED * rim.length;
  const outside = new Uint8Array(width * height);
  for (let i = 0; i < outside.length; i++) outside[i] = unknown[i] ? 0 : 1;
  for (const i of rim) outside[i] = 0;
  if (!crossed) for (const i of far) outside[i] = 1;

  const planes = Array.from({ length: colours }, (_, c) => {
    const plane = new Float32Array(width * height);
    let sum = 0;
    let n = 0;
    for (const i of rim) {
      if (outside[i]) continue;
      sum += plane[i] = difference(i, c);
      n++;
    }
    const start = n ? sum / n : 0;
    for (let i = 0; i < unknown.length; i++) if (unknown[i]) plane[i] = start;
    return plane;
  });
  if (rim.length)
    solvePoissonChannels(planes, unknown, width, height, undefined, {
      tolerance: toleranceFor(picture.depth),
      cycles: 40,
      outside,
    });
  for (let i = 0; i < unknown.length; i++) {
    if (!unknown[i]) continue;
    for (let c = 0; c < colours; c++) values[i * colours + c] += planes[c][i] / unit;
  }
  return { count: rim.length, left: crossed ? 0 : far.length, crossed };
}

/**
 * Change in the last cycle at which the membrane counts as found, levels of 255. What is then still wrong is some thirty times less,
 * well under what a rounded sample shows.
 */
const toleranceFor = (depth: Depth): number => (depth === 16 ? 0.01 : 0.25);

/** Says what was found on a rim. */
export function rimWords({ count, left, crossed }: Rim): string {
  if (crossed)
    return 'Its rim lies on both sides of a strong edge: copy, with the donor moved along the edge, stays crisper.';
  if (left > 0)
    return `${Math.round((100 * left) / count)} % of the rim lies beyond a strong edge and was left out, lest it smear.`;
  return '';
}
