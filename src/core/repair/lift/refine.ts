import { median, quantile } from '../../raster/luma.ts';
import { bestPath } from './best-path.ts';
import { contourThrough, evened, STEP, type Contour } from './contour.ts';
import type { Model } from './model.ts';
import { shared } from './trend.ts';
import { meanOf, REACH, type Sums } from './unwrapped.ts';

/** What it costs to run aside by 1 px, beside 1 for a step as expected; and to lie 1 px from where it was looked for. */
const COSTS = { bent: 0.02, away: 0.003 };
/** The same where slopes are told, which leaves more places that look like an edge. */
const BENT_SLOPING = 0.06;
/** Levels of a step that are as good as nothing beside what pictures are made of. */
const FAINT = 6;

/** How an edge is looked for. */
export interface Search {
  /** px over which both sides are compared */
  window: number;
  /** px that it may lie from where it was */
  reach: number;
  /** whether what a picture changes by over so many px on both sides is left out of the step */
  sloping: boolean;
}

/** Steps from inside to outside at every sample and offset, and the step that a model expects there; NaN where too little is known. */
interface Steps {
  columns: number;
  /** share of the expected step that is there */
  share: Float32Array;
  /** size of what does not go its way, in shares of it */
  aside: Float32Array;
  /** how much the expected step stands out of what pictures are made of, 0 to 1 */
  weight: Float32Array;
}

function stepsOf(sums: Sums, offsets: ArrayLike<number>, model: Model, { window, reach, sloping }: Search): Steps {
  const rows = offsets.length;
  const columns = 2 * reach + 1;
  const n = rows * columns;
  const out = {
    columns,
    share: new Float32Array(n).fill(NaN),
    aside: new Float32Array(n),
    weight: new Float32Array(n),
  };
  const [inner, outer, deeper, farther] = [0, 1, 2, 3].map(() => [0, 0, 0]);
  const { gain, offset } = model;
  for (let row = 0; row < rows; row++) {
    for (let k = 0; k < columns; k++) {
      const at = REACH + Math.round(offsets[row]) + k - reach;
      if (!meanOf(sums, row, at - window, at, inner) || !meanOf(sums, row, at + 1, at + 1 + window, outer)) continue;
      const trend =
        sloping &&
        meanOf(sums, row, at - 2 * window, at - window, deeper) &&
        meanOf(sums, row, at + 1 + window, at + 1 + 2 * window, farther);
      let [along, square, size] = [0, 0, 0];
      for (let c = 0; c < gain.length; c++) {
        const expected = (1 - gain[c]) * outer[c] - offset[c];
        const step =
          outer[c] - inner[c] - (trend ? shared((inner[c] - deeper[c]) / gain[c], farther[c] - outer[c]) : 0);
        along += step * expected;
        square += step * step;
        size += expected * expected;
      }
      if (size < 0.25) continue;
      const i = row * columns + k;
      out.share[i] = along / size;
      out.aside[i] = Math.sqrt(Math.max(0, square / size - out.share[i] ** 2));
      out.weight[i] = size / (size + FAINT * FAINT);
    }
  }
  return out;
}

/** The share of the expected step that is usual along a path, weighted. */
function usualShare({ columns, share, weight }: Steps, path: ArrayLike<number>, reach: number): number {
  const list: Array<[number, number]> = [];
  for (let row = 0; row < path.length; row++) {
    const i = row * columns + path[row] + reach;
    if (!Number.isNaN(share[i])) list.push([share[i], weight[i]]);
  }
  list.sort((a, b) => a[0] - b[0]);
  const half = list.reduce((s, [, w]) => s + w, 0) / 2;
  let sum = 0;
  return list.find(([, w]) => (sum += w) >= half)?.[0] ?? 0;
}

/** How well each step is the one expected, 1 at best; a larger one is no better, since it belongs to something in the picture. */
function scoresOf({ share, aside, weight }: Steps, usual: number): Float32Array {
  return share.map((v, i) => {
    if (Number.isNaN(v)) return 0;
    const p = v / usual;
    const along = p > 1 ? 1 - 0.3 * (p - 1) : p;
    return weight[i] * Math.max(-0.3, along - 0.3 * (aside[i] / usual));
  });
}

/** Samples that are taken together when it is asked how alike the steps along an edge are. */
const SECTOR = 14;

/** How far the steps along a path agree: their median over their spread, over sectors of it. */
function certaintyOf({ columns, share }: Steps, path: ArrayLike<number>, reach: number): number {
  const sectors: number[] = [];
  for (let from = 0; from + SECTOR <= path.length; from += SECTOR) {
    const list: number[] = [];
    for (let row = from; row < from + SECTOR; row++) {
      const v = share[row * columns + path[row] + reach];
      if (v === v) list.push(v);
    }
    if (list.length > SECTOR / 2) sectors.push(quantile(list, 0.5));
  }
  if (sectors.length < 3) return 0;
  const middle = median(sectors);
  return middle / Math.max(0.03, 1.4826 * median(sectors.map((v) => Math.abs(v - middle))));
}

/** An edge found near another. */
export interface Edge {
  /** px outwards from each sample of the outline as drawn */
  offsets: Float64Array;
  /** share of the model's step that is seen across it within the window: little where the edge is softer than that */
  share: number;
  /** how far the steps along it agree */
  certainty: number;
}

/** Looks for the closed path near `offsets` along which colour steps as a model expects. */
export function refineEdge(sums: Sums, offsets: Float64Array, model: Model, search: Search): Edge {
  const steps = stepsOf(sums, offsets, model, search);
  const { reach, sloping } = search;
  const costs = sloping ? { ...COSTS, bent: BENT_SLOPING } : COSTS;
  let path: Int16Array = new Int16Array(offsets.length);
  let usual = 1;
  for (let round = 0; round < 3; round++) {
    path = bestPath(scoresOf(steps, usual), offsets.length, reach, costs);
    usual = Math.min(1.2, Math.max(0.2, usualShare(steps, path, reach)));
  }
  return {
    offsets: evened(
      offsets.map((v, i) => Math.round(v) + path[i]),
      5 / STEP,
    ),
    share: usual,
    certainty: certaintyOf(steps, path, reach),
  };
}

/** A contour moved out of its area by so many px at each sample. */
export function moved(contour: Contour, offsets: ArrayLike<number>): Contour {
  const x = contour.x.map((v, i) => v + contour.nx[i] * offsets[i]);
  const y = contour.y.map((v, i) => v + contour.ny[i] * offsets[i]);
  return contourThrough(x, y, contour.sign);
}
