import { median, quantile } from '../../../raster/luma.ts';
import { colourChannels, fullScale, type Raster } from '../../../raster/raster.ts';
import { FLOOR, type Light } from '../light.ts';

/** Cells along the longer side, and share of one that has to be known. */
const CELLS = 320;
const KNOWN = 0.5;
/** Most px that are read across a cell and across a row of the picture, and least of a row that have to be lit. */
const READ_ACROSS = 4;
const READ_ROW = 1500;
const LEAST_LIT = 24;
/** Share of a row's cells that may be in shadow, and depth from which on one is not lit, natural logarithm. */
const LIT = 0.7;
/** Cells of a row that have to be known. */
const LEAST_KNOWN = 12;
/** Share of a row that is lit at least where most of it is not, and share of the rows among which it is looked for how light that is. */
const FEW = 0.06;
const AMONG = 0.25;
export const RIM = 0.06;

/** Logarithms of a picture in its light. */
export class Logs {
  readonly colours: number;
  private readonly unit: number;
  constructor(
    readonly picture: Raster,
    private readonly light: Light | null,
  ) {
    this.colours = colourChannels(picture.channels);
    this.unit = 255 / fullScale(picture.depth);
  }
  at(x: number, y: number, c: number): number {
    const { data, width, channels } = this.picture;
    const value = Math.log(data[(y * width + x) * channels + c] * this.unit + FLOOR);
    return this.light ? value - Math.log(this.light.gain(x, y, c)) : value;
  }
  mean(x: number, y: number): number {
    return this.stored(x, y) - this.fall(x, y);
  }
  /** mean of the channels as they are stored */
  stored(x: number, y: number): number {
    const { data, width, channels } = this.picture;
    const i = (y * width + x) * channels;
    let product = 1;
    for (let c = 0; c < this.colours; c++) product *= data[i + c] * this.unit + FLOOR;
    return Math.log(product) / this.colours;
  }
  /** mean of what light does to them */
  fall(x: number, y: number): number {
    if (!this.light) return 0;
    let product = 1;
    for (let c = 0; c < this.colours; c++) product *= this.light.gain(x, y, c);
    return Math.log(product) / this.colours;
  }
}

export interface Cells {
  by: number;
  w: number;
  h: number;
  /** mean logarithm; NaN where too little is known */
  levels: Float32Array;
  /** by how much each is darker than what is lit in its row; NaN where that is not known */
  depths: Float32Array;
  /** standard deviation of what is lit */
  usual: number;
}

const knownOf = (row: Float32Array) => row.filter((v) => v === v);

/** What is lit in a row of cells: most of it, leaving out what is dark. */
function litOf(row: Float32Array): number {
  const known = knownOf(row);
  if (known.length < LEAST_KNOWN) return NaN;
  const high = quantile(known, LIT);
  return median([...known].filter((v) => v > high - RIM));
}

/** The lower of the lightest that lie above and below each row of a list, itself among both, so far away at most. */
function closed(rows: Float32Array, reach: number): Float32Array {
  const most = (from: number, to: number) =>
    rows.subarray(Math.max(0, from), Math.max(0, to)).reduce((a, b) => (b > a ? b : a), -Infinity);
  return rows.map((_, y) => Math.min(most(y - reach, y + 1), most(y, y + reach + 1)));
}

/** What is lit in each row of cells. Where most of one is in shadow, that is what is as light as the rows above and below it. */
function litByRows(levels: Float32Array, w: number, h: number): Float32Array {
  const row = (y: number) => levels.subarray(y * w, (y + 1) * w);
  const most = Float32Array.from({ length: h }, (_, y) => litOf(row(y)));
  const among = closed(most, Math.ceil(AMONG * h));
  return most.map((own, y) => {
    if (!(among[y] - own > RIM)) return own;
    const known = knownOf(row(y));
    const lit = known.filter((v) => Math.abs(v - among[y]) < RIM);
    return lit.length >= FEW * known.length ? median([...lit]) : own;
  });
}

/** How much darker than what is lit at its height each cell of a picture is. */
export function cellsOf(logs: Logs, usable: Uint8Array): Cells {
  const { width, height } = logs.picture;
  const by = Math.max(2, Math.ceil(Math.max(width, height) / CELLS));
  const [w, h] = [Math.ceil(width / by), Math.ceil(height / by)];
  const [sums, counts] = [new Float32Array(w * h), new Float32Array(w * h)];
  const step = Math.max(1, Math.floor(by / READ_ACROSS));
  for (let y = 0; y < height; y += step)
    for (let x = 0; x < width; x += step) {
      if (!usable[y * width + x]) continue;
      const o = Math.floor(y / by) * w + Math.floor(x / by);
      sums[o] += logs.stored(x, y);
      counts[o]++;
    }
  // Light changes so little within a cell that its middle stands for all of it.
  const falls = (o: number) => logs.fall(((o % w) + 0.5) * by, (Math.floor(o / w) + 0.5) * by);
  const levels = sums.map((v, o) => (counts[o] > KNOWN * (by / step) ** 2 ? v / counts[o] - falls(o) : NaN));
  const depths = new Float32Array(w * h);
  const off: number[] = [];
  const lit = litByRows(levels, w, h);
  for (let y = 0; y < h; y++) {
    for (let o = y * w; o < (y + 1) * w; o++) {
      depths[o] = lit[y] - levels[o];
      if (Math.abs(depths[o]) < 2 * RIM) off.push(Math.abs(depths[o]));
    }
  }
  return { by, w, h, levels, depths, usual: 1.48 * median(off) };
}

/** Mean logarithms of what is lit at each height of a picture, a channel after the other; NaN where none is. */
export function litRows(logs: Logs, usable: Uint8Array, { by, w, depths, usual }: Cells): Float32Array[] {
  const { width, height } = logs.picture;
  const most = Math.max(0.04, 3 * usual);
  const out = Array.from({ length: logs.colours }, () => new Float32Array(height).fill(NaN));
  const sums = new Float64Array(logs.colours);
  const step = Math.max(1, Math.floor(width / READ_ROW));
  for (let y = 0; y < height; y++) {
    sums.fill(0);
    let n = 0;
    for (let x = 0, row = Math.floor(y / by) * w; x < width; x += step) {
      if (!usable[y * width + x] || !(Math.abs(depths[row + Math.floor(x / by)]) < most)) continue;
      n++;
      for (let c = 0; c < logs.colours; c++) sums[c] += logs.at(x, y, c);
    }
    if (n >= LEAST_LIT) out.forEach((rows, c) => (rows[y] = sums[c] / n));
  }
  return out;
}
