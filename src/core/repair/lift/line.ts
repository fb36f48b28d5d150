import { median, quantile } from '../../raster/luma.ts';
import { alignLine, BESIDE } from './align-line.ts';
import { lineThrough, STEP, type Contour } from './contour.ts';
import { fitOverlay, medianIn, type Model, type Sector } from './model.ts';
import { COLUMNS, REACH, type Known, type Unwrapped } from './unwrapped.ts';

/** What lies along a line: what it does at each px across, and where nothing can be read any more. */
export interface LinedStain {
  line: Contour;
  /** model at each column of the band; null where it does nothing */
  models: Array<Model | null>;
  /** first and last column in which it does something */
  from: number;
  to: number;
  /** first and last column in which what is beneath is lost; null where all can be read */
  lost: { from: number; to: number } | null;
  /** size of what it does over what is left unexplained */
  certainty: number;
}

/** px along the line that are taken together. */
const ALONG = 12;
/** px across of the widest band beside the line itself. */
const WIDEST = 46;
/** Levels by which a column has to depart, in deviations of those that do not; and at least. */
const CLEAR = 4;
const LEAST = 1.2;
/** Share of contrast under which nothing can be read any more. */
const LEGIBLE = 0.45;
/** Levels by which both sides of a line differ where what is between cannot be told. */
const UNLIKE = 14;

/** First and last column in which the profile departs; null where it nowhere does. */
function extentOf(profile: Float32Array): { from: number; to: number } | null {
  const usual = Array.from(profile).filter((_, k) => Math.abs(k - REACH) > WIDEST);
  const noise = 1.4826 * median(usual.map(Math.abs));
  const least = Math.max(LEAST, CLEAR * noise);
  let [from, to] = [REACH, REACH];
  const departs = (k: number) => Math.abs(profile[k]) > least;
  for (let k = REACH - 1, quiet = 0; k > REACH - WIDEST + BESIDE && quiet < 4; k--) {
    if (departs(k)) from = k;
    quiet = departs(k) ? 0 : quiet + 1;
  }
  for (let k = REACH + 1, quiet = 0; k < REACH + WIDEST - BESIDE && quiet < 4; k++) {
    if (departs(k)) to = k;
    quiet = departs(k) ? 0 : quiet + 1;
  }
  return departs(from) || departs(to) ? { from: from - 1, to: to + 1 } : null;
}

/** What each stretch of the line shows at a column, and what it would beside both its sides. */
function sectorsAt(band: Unwrapped, k: number, from: number, to: number): Sector[] {
  const step = ALONG / STEP;
  const out: Sector[] = [];
  const share = (k - from + BESIDE / 2) / (to - from + BESIDE);
  for (let row = 0; row + step <= band.rows; row += step) {
    const read = (left: number, right: number) => band.planes.map((p) => medianIn(p, row, row + step, left, right));
    const [a, b, inside] = [read(from - BESIDE, from), read(to + 1, to + 1 + BESIDE), read(k, k + 1)];
    if ([...a, ...b, ...inside].some(Number.isNaN)) continue;
    const unlike = Math.max(...a.map((v, c) => Math.abs(v - b[c])));
    out.push({ inside, outside: a.map((v, c) => v + (b[c] - v) * share), weight: 1 / (1 + (unlike / UNLIKE) ** 2) });
  }
  return out;
}

/** Levels by which what a stain does changes from one px to the next where a line that lies a little aside would leave a trace. */
const STEEP = 20;

/** What is lost, with the columns beside it where the stain changes so fast that it cannot be taken off cleanly; their models go. */
function withSteep(
  models: Array<Model | null>,
  from: number,
  to: number,
  lost: LinedStain['lost'],
  tone: number,
): LinedStain['lost'] {
  if (!lost) return null;
  const effect = (k: number) => {
    const m = models[k];
    return m ? (m.gain[0] - 1) * tone + m.offset[0] : NaN;
  };
  const out = { ...lost };
  // Towards the lost part what is beside it is steeper than farther out, up to its blur.
  while (out.from > from && !(Math.abs(effect(out.from - 1) - effect(out.from - 2)) < STEEP)) out.from--;
  while (out.to < to && !(Math.abs(effect(out.to + 1) - effect(out.to + 2)) < STEEP)) out.to++;
  for (let k = out.from; k <= out.to; k++) models[k] = null;
  return out;
}

/** Times what columns usually differ by, and levels more, from which one is not understood. */
const UNEXPLAINED = { times: 1.3, more: 3 };

/** px across between what is compared with each other. */
const APART = 4;

/** Levels by which each column, lifted, differs from one farther out in nine rows of ten at most; NaN where it cannot be said. */
function unlikeBeside(band: Unwrapped, models: ReadonlyArray<Model | null>, from: number, to: number): Float32Array {
  const lifted = (k: number, i: number) => {
    const m = models[k];
    if (!m && k >= from && k <= to) return NaN;
    return m ? (band.planes[0][i] - m.offset[0]) / m.gain[0] : band.planes[0][i];
  };
  return Float32Array.from({ length: COLUMNS }, (_, k) => {
    const other = 2 * k < from + to ? k - APART : k + APART;
    const list: number[] = [];
    for (let row = 0; row < band.rows; row++) {
      const d = Math.abs(lifted(k, row * COLUMNS + k) - lifted(other, row * COLUMNS + other));
      if (d === d) list.push(d);
    }
    return list.length ? quantile(list, 0.9) : NaN;
  });
}

/**
 * What is lost, with the columns beside it that their models do not explain, as where a shadow lies beside a ridge and does not keep
 * its distance; their models go.
 */
function withUnexplained(
  models: Array<Model | null>,
  lost: LinedStain['lost'],
  unlike: Float32Array,
): LinedStain['lost'] {
  const usual = median(Array.from(unlike).filter((v) => v === v));
  if (!lost || Number.isNaN(usual)) return lost;
  const unclear = (k: number) => unlike[k] > UNEXPLAINED.times * usual + UNEXPLAINED.more;
  const out = { ...lost };
  // One that is clear between two that are not is no end.
  while (unclear(out.from - 1) || unclear(out.from - 2)) out.from--;
  while (unclear(out.to + 1) || unclear(out.to + 2)) out.to++;
  for (let k = out.from; k <= out.to; k++) models[k] = null;
  return out;
}

/** What each column does, whether it lets anything through or not. */
interface Fits extends Omit<LinedStain, 'line'> {
  /** what a place of some tone shows at each column; null where nothing was measured */
  shows: Array<Model | null>;
}

/** Measures each column of a band. */
function fitColumns(band: Unwrapped, profile: Float32Array): Fits | null {
  const extent = extentOf(profile);
  if (!extent) return null;
  const { from, to } = extent;
  const models: Array<Model | null> = new Array<Model | null>(COLUMNS).fill(null);
  const shows = models.slice();
  let [size, left] = [0, 0];
  const tone = median(sectorsAt(band, from, from, to).map((s) => s.outside[0]));
  let lost: LinedStain['lost'] = null;
  const lose = (k: number) => (lost = { from: lost?.from ?? k, to: k });
  for (let k = from; k <= to; k++) {
    const sectors = sectorsAt(band, k, from, to);
    const model = sectors.length >= 8 ? fitOverlay(sectors) : null;
    shows[k] = model ?? evenlyCovered(sectors);
    // What is as light or dark everywhere lets nothing through.
    if (!model || model.gain[0] < LEGIBLE) {
      if (Math.abs(profile[k]) > 4 * LEAST) lose(k);
      continue;
    }
    models[k] = model;
    const residuals = sectors.map((s) => Math.abs(s.inside[0] - model.gain[0] * s.outside[0] - model.offset[0]));
    left += median(residuals);
    size += median(sectors.map((s) => Math.abs(s.inside[0] - s.outside[0])));
  }
  lost = withUnexplained(models, withSteep(models, from, to, lost, tone), unlikeBeside(band, models, from, to));
  const columns = models.filter((m) => m).length;
  return { models, shows, from, to, lost, certainty: columns ? size / Math.max(columns, left) : 0 };
}

/** A colour that is the same everywhere. */
function evenlyCovered(sectors: readonly Sector[]): Model | null {
  if (!sectors.length) return null;
  const offset = sectors[0].inside.map((_, c) => median(sectors.map((s) => s.inside[c])));
  return { gain: offset.map(() => 0), offset };
}

/**
 * Measures what lies along a line, such as the band of a crease: at each px across, a colour that is laid over by some share, from what
 * the picture is like on both sides all along it. Null where nothing is seen or too little is known.
 */
export function measureLine(known: Known, points: ReadonlyArray<readonly [number, number]>): LinedStain | null {
  const drawn = lineThrough(points);
  if (drawn.count < 3 * ALONG) return null;
  const rough = alignLine(known, drawn, WIDEST);
  const first = fitColumns(rough.band, rough.profile);
  if (!first) return null;
  // What it does depends on the tone it lies on: with that known the line is followed where it is hardly seen, too.
  const { line, band, profile } = alignLine(known, rough.line, WIDEST, first.shows);
  const fits = fitColumns(band, profile);
  return fits && { ...fits, line };
}
