import { median } from '../../raster/luma.ts';
import { createRaster, colourChannels, fullScale, type Raster } from '../../raster/raster.ts';
import { solveRows } from '../../raster/solve.ts';

/** How light falls off over a region: a smooth surface of the logarithm of each channel. */
export interface Light {
  /** at a px, by how much a channel is lighter than usual there */
  gain(x: number, y: number, channel: number): number;
  /** between the lightest and the darkest place, stops */
  stops: number;
}

/** Cells along the longer side that are averaged, and share of one that has to be known. */
const CELLS = 96;
const KNOWN = 0.8;
/** What is added before the logarithm is taken, levels: black has none. */
export const FLOOR = 3;
/** Rounds of fitting, of which the first go by absolute values, and deviations beyond which a cell is another thing. */
const ROUNDS = 16;
const ABSOLUTE = 8;
const FAR = 4.7;
/** Share of cells that have to lie on the surface, and share of what varies among them that it has to explain. */
const ON = 0.5;
const EXPLAINED = 0.6;
/** The same where each height counts by itself: what a ground has of patches is all that varies there beside light. */
const EXPLAINED_BY_ROWS = 0.25;
/** Stops of fall-off below which there is none. */
const LEAST = 0.06;
/** Stops by which light can fall off, and by which one channel can do so more than another: more is another ground, not light. */
const MOST = 3;
const MOST_COLOUR = 1;
/** How far beyond what is known light is carried on: times its range there, darker and lighter. */
const DARKER = 2;
const LIGHTER = 0.4;

interface Cell {
  x: number;
  y: number;
  logs: number[];
}

/** Logarithm of the mean of each channel over cells of what is usable. */
function cellsOf(picture: Raster, usable: Uint8Array): Cell[] {
  const { width, height, channels, data } = picture;
  const colours = colourChannels(channels);
  const unit = 255 / fullScale(picture.depth);
  const side = Math.max(2, Math.ceil(Math.max(width, height) / CELLS));
  const out: Cell[] = [];
  for (let top = 0; top + side <= height; top += side)
    for (let left = 0; left + side <= width; left += side) {
      const sums = new Array<number>(colours).fill(0);
      let n = 0;
      for (let y = top; y < top + side; y++)
        for (let i = y * width + left; i < y * width + left + side; i++) {
          if (!usable[i]) continue;
          n++;
          for (let c = 0; c < colours; c++) sums[c] += data[i * channels + c] * unit;
        }
      if (n < KNOWN * side * side) continue;
      out.push({ x: left + side / 2, y: top + side / 2, logs: sums.map((s) => Math.log(s / n + FLOOR)) });
    }
  return out;
}

/** Terms and values less what they are on average, by weight, in the group of each. */
function withoutMeans(
  rows: readonly number[][],
  values: readonly number[],
  weights: readonly number[],
  groups: readonly number[],
): [number[][], number[]] {
  const sums = new Map<number, Float64Array>();
  rows.forEach((row, n) => {
    let sum = sums.get(groups[n]);
    if (!sum) sums.set(groups[n], (sum = new Float64Array(row.length + 2)));
    row.forEach((v, i) => (sum[i] += weights[n] * v));
    sum[row.length] += weights[n] * values[n];
    sum[row.length + 1] += weights[n];
  });
  const mean = (n: number, i: number) => {
    const sum = sums.get(groups[n])!;
    return sum[sum.length - 1] > 0 ? sum[i] / sum[sum.length - 1] : 0;
  };
  return [rows.map((row, n) => row.map((v, i) => v - mean(n, i))), values.map((v, n) => v - mean(n, rows[n].length))];
}

/** Fits a surface through most of the values: least squares, again and again with less weight for what lies far off. `weights` become those of the last. */
function surface(
  given: readonly number[][],
  levels: readonly number[],
  weights: number[],
  groups?: readonly number[],
): number[] | null {
  let [rows, values] = [given, levels];
  const terms = rows[0].length;
  let fitted: number[] | null = null;
  for (let round = 0; round < ROUNDS; round++) {
    if (groups) [rows, values] = withoutMeans(given, levels, weights, groups);
    const m = Array.from({ length: terms }, (_, i) => {
      const row = new Float64Array(terms + 1);
      row[i] = 1e-6;
      return row;
    });
    rows.forEach((row, n) => {
      for (let i = 0; i < terms; i++) {
        for (let j = 0; j < terms; j++) m[i][j] += weights[n] * row[i] * row[j];
        m[i][terms] += weights[n] * row[i] * values[n];
      }
    });
    fitted = solveRows(m);
    if (!fitted) return null;
    const off = values.map((v, n) => Math.abs(v - at(fitted!, rows[n])));
    if (round < ABSOLUTE) {
      // A thing before the ground would draw the surface to it.
      off.forEach((d, n) => (weights[n] = 0.01 / Math.max(0.01, d)));
      continue;
    }
    const usual = FAR * Math.max(0.004, 1.48 * median(off));
    off.forEach((d, n) => (weights[n] = d < usual ? (1 - (d / usual) ** 2) ** 2 : 0));
  }
  return fitted;
}

const at = (fitted: readonly number[], row: readonly number[]) => row.reduce((s, v, i) => s + v * fitted[i], 0);

/**
 * Terms of a place: linear and of second order, for radial fall-off about wherever it has its middle. By rows, only those by which
 * places of one height differ.
 */
function termsAt(width: number, height: number, x: number, y: number, byRows: boolean): number[] {
  const size = Math.hypot(width, height) / 2;
  const [u, v] = [(x - width / 2) / size, (y - height / 2) / size];
  return byRows ? [u, u * u, u * v] : [1, u, v, u * u, u * v, v * v];
}

/**
 * How light falls off over what is usable of a region, by most of it: things before a backdrop are left out by themselves.
 * @param usable 1 where pixels count
 * @param aside it is to be carried on to a side: where not all is of one ground, as with a table before a backdrop, only how it falls
 * off to the sides is looked for, each height by itself
 * @returns null where there is no even ground, no fall-off, or what varies does so in another colour or by more than light does
 * Source: low-order polynomial of log luminance (common practice for vignetting and backdrops); Tukey's biweight; by rows after the
 * within estimator of panel data, from memory.
 */
export function lightOf(picture: Raster, usable: Uint8Array, aside = false): Light | null {
  const cells = cellsOf(picture, usable);
  if (cells.length < 60) return null;
  const whole = fittedTo(cells, picture, false);
  return !aside || (whole && isOneGround(cells, whole)) ? whole : fittedTo(cells, picture, true);
}

/** By how much places of one height may be off what light alone does, on average, for all to count as one ground: logarithm, nine rows in ten. */
const ROWS_OFF = 0.06;

/** Whether what is left without its light has one tone at every height: not so where a table stands before a backdrop. */
function isOneGround(cells: readonly Cell[], light: Light): boolean {
  const rows = new Map<number, number[]>();
  for (const { x, y, logs } of cells) {
    const off = logs.reduce((sum, v, c) => sum + v - Math.log(light.gain(x, y, c)), 0) / logs.length;
    const row = rows.get(y);
    if (row) row.push(off);
    else rows.set(y, [off]);
  }
  const means = [...rows.values()].map((row) => row.reduce((a, b) => a + b, 0) / row.length);
  const usual = median(means);
  const off = means.map((v) => Math.abs(v - usual)).sort((a, b) => a - b);
  return off[Math.floor(0.9 * off.length)] < ROWS_OFF;
}

/** Fits light to cells. @param byRows see {@link termsAt} */
function fittedTo(
  cells: readonly Cell[],
  { width, height }: Pick<Raster, 'width' | 'height'>,
  byRows: boolean,
): Light | null {
  const rows = cells.map(({ x, y }) => termsAt(width, height, x, y, byRows));
  const groups = byRows ? cells.map(({ y }) => y) : undefined;
  const colours = cells[0].logs.length;
  const mean = cells.map(({ logs }) => logs.reduce((a, b) => a + b, 0) / colours);
  const weights = new Array<number>(cells.length).fill(1);
  const whole = surface(rows, mean, weights, groups);
  if (!whole) return null;
  const on = weights.map((w) => w > 0.1);
  const count = on.filter(Boolean).length;
  if (count < ON * cells.length) return null;
  const within = on.map(Number);
  const alone = rows.map(() => 0);
  const [own, values] = withoutMeans(rows, mean, within, groups ?? alone);
  let [left, all] = [0, 0];
  let [least, most] = [Infinity, -Infinity];
  let level = 0;
  rows.forEach((row, n) => {
    if (!on[n]) return;
    const fitted = at(whole, row);
    left += (values[n] - at(whole, own[n])) ** 2;
    all += values[n] ** 2;
    least = Math.min(least, fitted);
    most = Math.max(most, fitted);
    level += fitted / count;
  });
  const range = most - least;
  if (
    range < LEAST * Math.LN2 ||
    range > MOST * Math.LN2 ||
    left > (1 - (byRows ? EXPLAINED_BY_ROWS : EXPLAINED)) * all
  )
    return null;
  // Each channel by what lies on the surface.
  const perChannel = Array.from({ length: colours }, (_, c) =>
    surface(
      rows,
      cells.map((cell) => cell.logs[c]),
      weights.slice(),
      groups,
    ),
  );
  if (perChannel.some((p) => !p)) return null;
  const levels = perChannel.map((p) => rows.reduce((s, row, n) => s + (on[n] ? at(p!, row) : 0), 0) / count);
  const logAt = (x: number, y: number, channel: number) =>
    at(perChannel[channel]!, termsAt(width, height, x + 0.5, y + 0.5, byRows)) - levels[channel];
  const corners = [0, width - 1].flatMap((x) => [0, height - 1].map((y) => levels.map((_, c) => logAt(x, y, c))));
  if (corners.some((logs) => Math.max(...logs) - Math.min(...logs) > MOST_COLOUR * Math.LN2)) return null;
  return {
    stops: range / Math.LN2,
    gain(x, y, channel) {
      const value = logAt(x, y, channel);
      return Math.exp(Math.min(most - level + LIGHTER * range, Math.max(least - level - DARKER * range, value)));
    },
  };
}

/** A region without its fall-off of light, in 16 bit. */
export function withoutLight(picture: Raster, light: Light): Raster {
  const { width, height, channels, data } = picture;
  const out = createRaster(width, height, channels, 16);
  const colours = colourChannels(channels);
  const unit = 65535 / fullScale(picture.depth);
  const black = (FLOOR * 65535) / 255;
  for (let y = 0, o = 0; y < height; y++)
    for (let x = 0; x < width; x++, o += channels)
      for (let c = 0; c < channels; c++)
        out.data[o + c] =
          c < colours
            ? Math.round(Math.min(65535, Math.max(0, (data[o + c] * unit + black) / light.gain(x, y, c) - black)))
            : data[o + c] * unit;
  return out;
}

/** A value of 16 bit of a place with the light that falls there, in levels of a depth. */
export function inLight(value: number, gain: number, depth: Raster['depth']): number {
  const black = (FLOOR * 65535) / 255;
  const lit = Math.min(65535, Math.max(0, (value + black) * gain - black));
  return Math.round((lit * fullScale(depth)) / 65535);
}
