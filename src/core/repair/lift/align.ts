import { median } from '../../raster/luma.ts';
import { bestPath } from './best-path.ts';
import { evened, STEP } from './contour.ts';
import { groundAt, sectorsAlong, type Beside, type Model } from './model.ts';
import type { Profile } from './profile.ts';
import { COLUMNS, REACH, type Unwrapped } from './unwrapped.ts';

/** px beside the edge that are compared as well. */
const BESIDE = 5;
/** Levels of a change that are as good as nothing beside what pictures are made of. */
const FAINT = 6;
/** px that an edge usually runs aside from one sample to the next, standard deviation. */
const WANDERS = 0.25;
/** How many pixels say as much as one, since neighbours are alike. */
const ALIKE = 4;

/** How strong the stain seems to be at each pixel of a band, and what each row counts. */
function strengths(band: Unwrapped, model: Model, beside: Beside): { plane: Float32Array; weight: Float32Array } {
  const { rows, channels, planes } = band;
  const sectors = sectorsAlong(band, beside);
  const plane = new Float32Array(rows * COLUMNS).fill(NaN);
  const weight = new Float32Array(rows);
  sectors.forEach((sector, n) => {
    if (!sector) return;
    const { outside, trend } = sector;
    const change = outside.map((v, c) => (model.gain[c] - 1) * v + model.offset[c]);
    const size = change.reduce((s, v) => s + v * v, 0);
    if (size < 1) return;
    for (
      let row = Math.floor((n * rows) / sectors.length);
      row < Math.floor(((n + 1) * rows) / sectors.length);
      row++
    ) {
      weight[row] = size / (size + FAINT * FAINT);
      for (let k = 0, i = row * COLUMNS; k < COLUMNS; k++, i++) {
        let along = 0;
        for (let c = 0; c < channels; c++) along += (planes[c][i] - groundAt(outside[c], trend[c], k)) * change[c];
        plane[i] = along / size;
      }
    }
  });
  return { plane, weight };
}

/**
 * Moves an edge to where the strength goes across it as it does everywhere along it, which tells the place of soft edges in grain far
 * better than any step.
 * @param near px by which it is moved at most
 * @returns px outwards at each sample
 */
export function alignEdge(
  band: Unwrapped,
  model: Model,
  { strength, inner, outer }: Profile,
  { near, sloping }: { near: number; sloping: boolean },
): Float64Array {
  const { plane, weight } = strengths(band, model, { inner, outer, sloping });
  const [from, to] = [-inner - BESIDE, outer + BESIDE];
  const off: number[] = [];
  for (let row = 0; row < band.rows; row++)
    for (let d = from; d <= to; d += 2) {
      const v = plane[row * COLUMNS + REACH + d];
      if (v === v) off.push(Math.abs(v - strength[REACH + d]));
    }
  const noise = Math.max(0.02, 1.4826 * median(off));
  const columns = 2 * near + 1;
  const scores = new Float32Array(band.rows * columns);
  for (let row = 0; row < band.rows; row++)
    for (let k = 0; k < columns; k++) {
      let sum = 0;
      for (let d = from; d <= to; d++) {
        const v = plane[row * COLUMNS + REACH + d + k - near];
        // What stands out belongs to the picture and says nothing.
        sum -= v !== v ? 4 : Math.min(4, ((v - strength[REACH + d]) / noise) ** 2);
      }
      scores[row * columns + k] = (weight[row] * sum) / (2 * ALIKE);
    }
  const path = bestPath(scores, band.rows, near, { bent: 1 / (2 * WANDERS * WANDERS), away: 0 });
  return evened(Float64Array.from(path), 4 / STEP);
}
