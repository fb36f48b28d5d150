import { createRaster, type Raster } from '../../raster/raster.ts';

/** px of height that seams are found at: larger pictures are looked at smaller, and a seam is that much wider. */
const FOUND_AT = 480;
/** Share of a part's width that is inserted at most at once: beyond that what was inserted is used again. */
const AT_ONCE = 0.5;

/** A part of a picture beside what is guarded, as high as the picture, that is to become wider. */
export interface Part {
  /** columns, the second not included */
  from: number;
  to: number;
  /** px to insert */
  add: number;
}

/** A plane that shrinks seam by seam, with the column that each px came from. */
interface Shrinking {
  width: number;
  height: number;
  luma: Float32Array;
  column: Int32Array;
  /** px of a row in memory */
  across: number;
}

/** Mean luma of squares of so many px of a part. */
function reduced({ data, width, channels, depth }: Raster, { from, to }: Part, rows: number, size: number): Shrinking {
  const across = Math.max(1, Math.floor((to - from) / size));
  const high = Math.max(1, Math.floor(rows / size));
  const luma = new Float32Array(across * high);
  const colours = channels > 2 ? 3 : 1;
  const unit = depth === 16 ? 257 : 1;
  for (let v = 0; v < high; v++)
    for (let u = 0; u < across; u++) {
      let sum = 0;
      for (let y = v * size; y < (v + 1) * size; y++)
        for (let x = from + u * size; x < from + (u + 1) * size; x++)
          for (let c = 0; c < colours; c++) sum += data[(y * width + x) * channels + c];
      luma[v * across + u] = sum / (size * size * colours * unit);
    }
  const column = Int32Array.from(luma, (_, i) => i % across);
  return { width: across, height: high, luma, column, across };
}

/**
 * The seam from top to bottom whose removal brings the least that is unlike side by side.
 * Source: forward energy, Rubinstein, Shamir & Avidan, "Improved seam carving for video retargeting", 2008.
 */
function cheapestSeam({ width, height, luma, across }: Shrinking, costs: Float32Array, came: Int8Array): Int32Array {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * across + x;
      const left = luma[x > 0 ? i - 1 : i];
      const right = luma[x + 1 < width ? i + 1 : i];
      const beside = Math.abs(right - left);
      if (y === 0) {
        costs[i] = beside;
        continue;
      }
      const up = luma[i - across];
      let best = costs[i - across] + beside;
      came[i] = 0;
      if (x > 0) {
        const cost = costs[i - across - 1] + beside + Math.abs(up - left);
        if (cost < best) [best, came[i]] = [cost, -1];
      }
      if (x + 1 < width) {
        const cost = costs[i - across + 1] + beside + Math.abs(up - right);
        if (cost < best) [best, came[i]] = [cost, 1];
      }
      costs[i] = best;
    }
  const seam = new Int32Array(height);
  const last = (height - 1) * across;
  for (let x = 1; x < width; x++) if (costs[last + x] < costs[last + seam[height - 1]]) seam[height - 1] = x;
  for (let y = height - 1; y > 0; y--) seam[y - 1] = seam[y] + came[y * across + seam[y]];
  return seam;
}

/** Takes a seam out. @returns the columns of the part that it went through, by rows */
function takeOut(plane: Shrinking, seam: Int32Array): Int32Array {
  const { width, height, luma, column, across } = plane;
  const out = new Int32Array(height);
  for (let y = 0; y < height; y++) {
    const at = y * across + seam[y];
    out[y] = column[at];
    luma.copyWithin(at, at + 1, y * across + width);
    column.copyWithin(at, at + 1, y * across + width);
  }
  plane.width--;
  return out;
}

/** How often each px of a part is laid, by rows of the picture: once, and once more for each seam through it. */
function timesLaid(picture: Raster, part: Part, onProgress?: (done: number) => void): Uint8Array {
  const { height } = picture;
  const width = part.to - part.from;
  const size = Math.min(width, Math.max(1, Math.round(height / FOUND_AT)));
  const times = new Uint8Array(width * height).fill(1);
  const plane = reduced(picture, part, height, size);
  const costs = new Float32Array(plane.luma.length);
  const came = new Int8Array(plane.luma.length);
  for (let left = part.add, all = left; left > 0;) {
    const wide = Math.min(size, left);
    const seam = takeOut(plane, cheapestSeam(plane, costs, came));
    for (let y = 0; y < height; y++) {
      const from = y * width + seam[Math.min(plane.height - 1, Math.floor(y / size))] * size;
      for (let k = 0; k < wide; k++) times[from + k]++;
    }
    left -= wide;
    onProgress?.(1 - left / all);
  }
  return times;
}

/** Inserts seams into one part; at most half of its width at once. */
function widened(picture: Raster, part: Part, onProgress?: (done: number) => void): Raster {
  const { height, channels, depth, data } = picture;
  const times = timesLaid(picture, part, onProgress);
  const width = part.to - part.from;
  const out = createRaster(picture.width + part.add, height, channels, depth);
  for (let y = 0, o = 0; y < height; y++) {
    const row = y * picture.width;
    for (let x = 0; x < picture.width; x++) {
      const inside = x >= part.from && x < part.to;
      const count = inside ? times[y * width + x - part.from] : 1;
      for (let k = 0; k < count; k++) for (let c = 0; c < channels; c++) out.data[o++] = data[(row + x) * channels + c];
    }
  }
  return out;
}

/**
 * Inserts seams from top to bottom into parts of a picture, where they show least: what lies between them keeps every bit.
 * @param parts from left to right, apart from each other
 * @returns a wider picture
 * @throws RangeError where a part has no px, or would lose some
 * Source: Avidan & Shamir, "Seam carving for content-aware image resizing", 2007, with forward energy; found on a smaller picture
 * where it is high, own.
 */
export function withSeams(picture: Raster, parts: readonly Part[], onProgress?: (done: number) => void): Raster {
  let out = picture;
  const all = parts.reduce((sum, p) => sum + Math.max(0, p.add), 0);
  let done = 0;
  // From the right, so that the columns of the others stay where they are.
  for (const { from, to, add } of parts.slice().sort((a, b) => b.from - a.from)) {
    if (add === 0) continue;
    if (add < 0) throw new RangeError('Seams can only be inserted. Draw it in smoothly.');
    if (to - from < 2) throw new RangeError('There is no background on that side to draw out. Fill it, or guard less.');
    for (let left = add, end = to; left > 0;) {
      const now = Math.min(left, Math.max(1, Math.floor(AT_ONCE * (end - from))));
      const before = done;
      out = widened(out, { from, to: end, add: now }, (f) => onProgress?.((before + f * now) / all));
      done += now;
      left -= now;
      end += now;
    }
  }
  return out;
}

/** Rows as columns. */
export function transposed({ width, height, channels, depth, data }: Raster): Raster {
  const out = createRaster(height, width, channels, depth);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < channels; c++)
        out.data[(x * height + y) * channels + c] = data[(y * width + x) * channels + c];
  return out;
}
