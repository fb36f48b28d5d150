import { median } from '../../raster/luma.ts';
import { medianIn, sectorsOf, type Model } from './model.ts';
import { REACH, type Unwrapped } from './unwrapped.ts';

/** px on both sides of an edge that are looked at. */
const WIDE = 40;
/** px over which a bend counts. */
const BEND = 4;

/** Strength in each channel at so many px outwards from a sample of a contour; false where there is none. */
type StrengthAt = (contour: number, sample: number, distance: number, out: Float32Array) => boolean;

/**
 * How much is left of edges along a contour where a stain is taken off: second differences across it, mean over columns and channels,
 * median over sectors, levels. What is left of the stain bends there, and so does what was taken off where nothing lay.
 */
export function leftAcross(bands: readonly Unwrapped[], model: Model, strengthAt: StrengthAt): number {
  const list: number[] = [];
  const strength = new Float32Array(model.gain.length);
  bands.forEach((band, contour) => {
    const count = sectorsOf(band.rows);
    for (let n = 0; n < count; n++) {
      const from = Math.floor((n * band.rows) / count);
      const to = Math.floor(((n + 1) * band.rows) / count);
      let [sum, counted] = [0, 0];
      band.planes.forEach((plane, c) => {
        const row = Array.from({ length: 2 * WIDE + 1 }, (_, k) => {
          const v = medianIn(plane, from, to, REACH - WIDE + k, REACH - WIDE + k + 1);
          if (!strengthAt(contour, (from + to) / 2, k - WIDE, strength)) return v;
          const s = strength[c];
          return (v - s * model.offset[c]) / Math.max(0.12, 1 - s * (1 - model.gain[c]));
        });
        for (let k = BEND; k < row.length - BEND; k++) {
          const bend = Math.abs(row[k - BEND] - 2 * row[k] + row[k + BEND]);
          if (bend === bend) {
            sum += bend;
            counted++;
          }
        }
      });
      if (counted) list.push(sum / counted);
    }
  });
  return list.length ? median(list) : Infinity;
}
