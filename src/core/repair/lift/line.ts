import { median, quantile } from '../../raster/luma.ts';
import { bestPath } from './best-path.ts';
import { lineThrough, STEP, type Contour } from './contour.ts';
import { fitOverlay, medianIn, type Model, type Sector } from './model.ts';
import { COLUMNS, REACH, unwrap, type Known, type Unwrapped } from './unwrapped.ts';

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

/** px along the line that are taken together, and beside the band that it is compared with. */
const ALONG = 12;
const BESIDE = 12;
/** px by which the line is moved at most to lie where it is seen. */
const NEAR = 9;
const ROUNDS = 3;
/** px across of the widest band beside the line itself. */
const WIDEST = 46;
/** Levels by which a column has to depart, in deviations of those that do not; and at least. */
const CLEAR = 4;
const LEAST = 1.2;
/** Share of contrast under which nothing can be read any more. */
const LEGIBLE = 0.45;
/** Levels by which both sides of a line differ where what is between cannot be told. */
const UNLIKE = 14;

/** Luma of each pixel of a band beside the mean of both sides of its row. */
function departureOf(band: Unwrapped, inner: number): Float32Array {
  const { rows, planes } = band;
  const out = new Float32Array(rows * COLUMNS).fill(NaN);
  const luma = (i: number) => planes.reduce((s, p) => s + p[i], 0) / planes.length;
  for (let row = 0; row < rows; row++) {
    const side = (left: number) => {
      let [sum, n] = [0, 0];
      for (let k = left; k < left + BESIDE; k++) {
        const v = luma(row * COLUMNS + k);
        if (v !== v) continue;
        sum += v;
        n++;
      }
      return n ? sum / n : NaN;
    };
    const [a, b] = [side(REACH - inner - BESIDE), side(REACH + inner + 1)];
    const usual = a !== a ? b : b !== b ? a : (a + b) / 2;
    for (let k = 0; k < COLUMNS; k++) out[row * COLUMNS + k] = luma(row * COLUMNS + k) - usual;
  }
  return out;
}

/** Median of a plane at each column. */
function columnsOf(plane: Float32Array, rows: number): Float32Array {
  return Float32Array.from({ length: COLUMNS }, (_, k) => {
    const list: number[] = [];
    for (let row = 0; row < rows; row++)
      if (plane[row * COLUMNS + k] === plane[row * COLUMNS + k]) list.push(plane[row * COLUMNS + k]);
    return list.length ? quantile(list, 0.5) : 0;
  });
}

/** Moves a line so that what departs goes across it everywhere as it usually does. */
function aligned(known: Known, line: Contour): { line: Contour; band: Unwrapped; profile: Float32Array } {
  let own = line;
  for (let round = 0; ; round++) {
    const band = unwrap(known, own);
    const plane = departureOf(band, WIDEST);
    const profile = columnsOf(plane, band.rows);
    if (round === ROUNDS) return { line: own, band, profile };
    const columns = 2 * NEAR + 1;
    const scores = new Float32Array(band.rows * columns);
    const reach = 16;
    for (let row = 0; row < band.rows; row++)
      for (let k = 0; k < columns; k++) {
        let sum = 0;
        for (let d = -reach; d <= reach; d++) {
          const v = plane[row * COLUMNS + REACH + d + k - NEAR];
          sum -= v === v ? Math.min(1, Math.abs(v - profile[REACH + d]) / 60) : 0.7;
        }
        scores[row * columns + k] = sum;
      }
    const path = bestPath(scores, band.rows, NEAR, { bent: 0.25, away: 0, open: true });
    const { x, y, nx, ny } = own;
    own = lineThrough(Array.from(path, (by, i): [number, number] => [x[i] + nx[i] * by, y[i] + ny[i] * by]));
  }
}

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

/**
 * Measures what lies along a line, such as the band of a crease: at each px across, a colour that is laid over by some share, from what
 * the picture is like on both sides all along it. Null where nothing is seen or too little is known.
 */
export function measureLine(known: Known, points: ReadonlyArray<readonly [number, number]>): LinedStain | null {
  const drawn = lineThrough(points);
  if (drawn.count < 3 * ALONG) return null;
  const { line, band, profile } = aligned(known, drawn);
  const extent = extentOf(profile);
  if (!extent) return null;
  const { from, to } = extent;
  const models: Array<Model | null> = new Array<Model | null>(COLUMNS).fill(null);
  let [size, left] = [0, 0];
  let lost: LinedStain['lost'] = null;
  const lose = (k: number) => (lost = { from: lost?.from ?? k, to: k });
  for (let k = from; k <= to; k++) {
    const sectors = sectorsAt(band, k, from, to);
    const model = sectors.length >= 8 ? fitOverlay(sectors) : null;
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
  const columns = models.filter((m) => m).length;
  return { line, models, from, to, lost, certainty: columns ? size / Math.max(columns, left) : 0 };
}
