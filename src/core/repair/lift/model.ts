import { median, quantile } from '../../raster/luma.ts';
import { shared } from './trend.ts';
import { COLUMNS, REACH, type Unwrapped } from './unwrapped.ts';

/**
 * What a stain does to a place of full strength: v → gain · v + offset, per channel on the 8-bit scale. A stain that only takes light
 * has no offset; one that covers has both; a veil that lies over dark and light alike has a gain below 1 and an offset.
 */
export interface Model {
  gain: number[];
  offset: number[];
}

/** A stretch along the edge: what the picture is like beside it, and under the stain. */
export interface Sector {
  outside: number[];
  inside: number[];
  /** how much of it is known, 0 to 1 */
  weight: number;
}

/** A stretch of a closed edge. */
export interface EdgeSector extends Sector {
  /** levels that both sides rise by over 1 px outwards; 0 where they are not asked for */
  trend: number[];
}

/** px deep into which both sides of the edge are compared. */
export const BAND = 14;

/** The same where slopes are told: the closer the less has to be carried on. */
const CLOSE = 5;

const FEWEST = 12;
const MOST = 60;

/** Median of a channel in a rectangle of a band; NaN where less than a third of it is known. */
export function medianIn(
  plane: Float32Array,
  from: number,
  to: number,
  left: number,
  right: number,
  offsets?: ArrayLike<number>,
): number {
  const list: number[] = [];
  const columns = COLUMNS;
  for (let row = from; row < to; row++) {
    const by = offsets ? Math.round(offsets[row]) : 0;
    const end = row * columns + Math.min(columns, right + by);
    for (let k = row * columns + Math.max(0, left + by); k < end; k++) {
      const v = plane[k];
      if (v === v) list.push(v);
    }
  }
  return 3 * list.length > (to - from) * (right - left) ? quantile(list, 0.5) : NaN;
}

/** How many sectors a contour of so many samples is divided into. */
export const sectorsOf = (rows: number): number => Math.max(FEWEST, Math.min(MOST, Math.round(rows / 14)));

/** px from the edge to which a picture is taken to go on as it does beside it. */
const GOES_ON = 24;

/** What the picture shows at a column, by what it shows at the edge and rises by outwards. */
export const groundAt = (atEdge: number, trend: number, column: number): number =>
  atEdge + trend * Math.max(-GOES_ON, Math.min(GOES_ON, column - REACH));

/** Where both sides of an edge are read. */
export interface Beside {
  /** px inside and outside at which the edge ends */
  inner: number;
  outer: number;
  /** px over which a side is read */
  deep?: number;
  /** whether both sides are brought to the edge by what they change by alike: right on smooth ground, led astray by rings */
  sloping: boolean;
}

/**
 * Compares both sides of an edge sector by sector; null where too little is known.
 * @param offsets px outwards from the band's middle at which the edge lies; 0 where left out
 */
export function sectorsAlong(
  band: Unwrapped,
  { inner, outer, sloping, deep = sloping ? CLOSE : BAND }: Beside,
  offsets?: ArrayLike<number>,
): Array<EdgeSector | null> {
  const count = sectorsOf(band.rows);
  const out: Array<EdgeSector | null> = [];
  for (let n = 0; n < count; n++) {
    const from = Math.floor((n * band.rows) / count);
    const to = Math.floor(((n + 1) * band.rows) / count);
    const side = (left: number) => band.planes.map((plane) => medianIn(plane, from, to, left, left + deep, offsets));
    const inside = side(REACH - inner - deep);
    const outside = side(REACH + outer + 1);
    const [deeper, farther] = [side(REACH - inner - 2 * deep), side(REACH + outer + 1 + deep)];
    const unknown = inside.some(Number.isNaN) || outside.some(Number.isNaN);
    // Brought to the edge as far as both sides go the same way.
    const trend = inside.map((v, c) => (sloping ? shared(v - deeper[c], farther[c] - outside[c]) / deep || 0 : 0));
    const at = (list: number[], by: number) => list.map((v, c) => v + trend[c] * by);
    out.push(
      unknown
        ? null
        : { inside: at(inside, inner + deep / 2), outside: at(outside, -outer - deep / 2), trend, weight: 1 },
    );
  }
  return out;
}

/** Median of weighted values. */
function weightedMedian(values: number[], weights: number[]): number {
  const order = values.map((_, i) => i).sort((a, b) => values[a] - values[b]);
  const half = weights.reduce((a, b) => a + b, 0) / 2;
  let sum = 0;
  for (const i of order) {
    sum += weights[i];
    if (sum >= half) return values[i];
  }
  return values[order[order.length - 1]] ?? 0;
}

/** Levels that keep a ratio of dark values from weighing without bounds. */
const DARK = 6;

/** Gain alone: weighted median of the ratios, bright sectors weigh more since their ratio is surer. */
function gainOnly(sectors: readonly Sector[]): Model {
  const channels = sectors[0].inside.length;
  const gain = Array.from({ length: channels }, (_, c) =>
    weightedMedian(
      sectors.map((s) => s.inside[c] / Math.max(DARK, s.outside[c])),
      sectors.map((s) => s.weight * Math.max(DARK, s.outside[c])),
    ),
  );
  return { gain, offset: gain.map(() => 0) };
}

/**
 * Line through pairs that both scatter alike: orthogonal regression, again and again with less weight for what lies far off.
 * Ordinary regression would be pulled towards no stain, since what it takes for the cause scatters as much as what follows.
 * Source: Deming, "Statistical Adjustment of Data", 1943, with Huber's weights.
 */
function orthogonal(x: number[], y: number[], base: number[]): { slope: number; at: number } | null {
  let weights = base.slice();
  let found: { slope: number; at: number } | null = null;
  for (let round = 0; round < 8; round++) {
    const w = weights.reduce((a, b) => a + b, 0);
    const mx = x.reduce((s, v, i) => s + weights[i] * v, 0) / w;
    const my = y.reduce((s, v, i) => s + weights[i] * v, 0) / w;
    let [xx, yy, xy] = [0, 0, 0];
    for (let i = 0; i < x.length; i++) {
      xx += weights[i] * (x[i] - mx) ** 2;
      yy += weights[i] * (y[i] - my) ** 2;
      xy += weights[i] * (x[i] - mx) * (y[i] - my);
    }
    if (!(xy > 0)) return found;
    // What scatters inside is seen through the stain: less by its gain.
    const ratio: number = found ? Math.max(0.05, Math.min(1, found.slope ** 2)) : 0.6;
    const d = yy - ratio * xx;
    const slope = (d + Math.sqrt(d * d + 4 * ratio * xy * xy)) / (2 * xy);
    found = { slope, at: my - slope * mx };
    const off = x.map((v, i) => Math.abs(y[i] - slope * v - found!.at) / Math.sqrt(ratio + slope * slope));
    const usual = Math.max(0.5, 1.4826 * median(off));
    weights = base.map((b, i) => b * (off[i] < 1.5 * usual ? 1 : (1.5 * usual) / off[i]));
  }
  return found;
}

/** Gain and offset of each channel by themselves; null where tones do not differ enough for that. */
function gainAndOffset(sectors: readonly Sector[]): Model | null {
  const model: Model = { gain: [], offset: [] };
  for (let c = 0; c < sectors[0].inside.length; c++) {
    const line = orthogonal(
      sectors.map((s) => s.outside[c]),
      sectors.map((s) => s.inside[c]),
      sectors.map((s) => s.weight),
    );
    if (!line || line.slope < 0.08 || line.slope > 1.6) return null;
    model.gain.push(line.slope);
    model.offset.push(line.at);
  }
  return model;
}

/** A colour laid over: one gain for all channels, each an offset. */
function overlaid(sectors: readonly Sector[], own: Model | null): Model | null {
  if (!own) return null;
  const spreads = own.gain.map((_, c) => {
    const list = sectors.map((s) => s.outside[c]);
    return quantile(list, 0.84) - quantile(list, 0.16);
  });
  const total = spreads.reduce((a, b) => a + b, 0);
  if (total <= 0) return null;
  const g = own.gain.reduce((s, v, c) => s + v * spreads[c], 0) / total;
  return {
    gain: own.gain.map(() => g),
    offset: own.gain.map((_, c) =>
      weightedMedian(
        sectors.map((s) => s.inside[c] - g * s.outside[c]),
        sectors.map((s) => s.weight),
      ),
    ),
  };
}

/** The colour that is laid over, where tones differ enough to tell; null elsewhere. */
export const fitOverlay = (sectors: readonly Sector[]): Model | null => overlaid(sectors, gainAndOffset(sectors));

/** Size of what a model leaves unexplained in sectors: median over them, levels. */
export function residualOf(model: Model, sectors: readonly Sector[]): number {
  const list = sectors.map((s) => {
    let sum = 0;
    for (let c = 0; c < s.inside.length; c++)
      sum += ((s.inside[c] - model.offset[c]) / model.gain[c] - s.outside[c]) ** 2;
    return Math.sqrt(sum / s.inside.length);
  });
  return list.length ? median(list) : Infinity;
}

/** Parts that sectors are divided into when models are compared. */
const PARTS = 6;

/** What a way of fitting leaves unexplained in sectors that it was not fitted on. Source: cross-validation (common practice). */
function crossed(sectors: readonly Sector[], fit: (part: readonly Sector[]) => Model | null): number {
  const list: number[] = [];
  for (let p = 0; p < PARTS; p++) {
    const model = fit(sectors.filter((_, n) => n % PARTS !== p));
    if (!model) return Infinity;
    for (const [n, s] of sectors.entries()) if (n % PARTS === p) list.push(residualOf(model, [s]));
  }
  // Between median and mean: what is far off for one part of the sectors counts, a single one does not.
  return list.length
    ? (quantile(list, 0.35) + quantile(list, 0.5) + quantile(list, 0.65) + quantile(list, 0.8)) / 4
    : Infinity;
}

/** How much better a model of more unknowns has to do. */
const WORTH = 0.97;

/** A model and how much it explains. */
export interface Fitted {
  model: Model;
  /** size of the change over what sectors that were not fitted on leave unexplained */
  certainty: number;
}

/**
 * Fits what a stain does: of a gain alone, a colour laid over, and both free per channel, the simplest that explains sectors it has not
 * seen. Null where too few sectors are known.
 */
export function fitModel(all: ReadonlyArray<Sector | null>): Fitted | null {
  const sectors = all.filter((s) => s !== null);
  if (sectors.length < 6) return null;
  const ways: Array<(part: readonly Sector[]) => Model | null> = [
    gainOnly,
    (part) => overlaid(part, gainAndOffset(part)),
    gainAndOffset,
  ];
  let best: { left: number; model: Model } | null = null;
  for (const way of ways) {
    const left = crossed(sectors, way);
    const model = way(sectors);
    if (!model || (best && left > WORTH * best.left)) continue;
    best = { left, model };
  }
  if (!best) return null;
  const nothing = residualOf({ gain: best.model.gain.map(() => 1), offset: best.model.gain.map(() => 0) }, sectors);
  return { model: best.model, certainty: nothing / Math.max(1, best.left) };
}
