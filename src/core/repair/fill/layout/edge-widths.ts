import type { Level } from './levels.ts';

/** Side in px of the cells that are counted, and how many around a cell count with it. */
const CELL = 8;
const AROUND = 3;
const BINS = 256;
/** Shares at which the tones of a place, and its slopes, are read off. */
const LOW = 0.04;
const HIGH = 0.96;
const STEEP = 0.985;
/** Least range of tones, 8-bit scale, that tells how sharp a place is. */
const FLAT = 12;

/** How soft the edges of a window are, place by place. */
interface EdgeWidths {
  /** width in px of the level of the sharpest edges around a place; 0 where nothing tells */
  at(x: number, y: number): number;
}

/**
 * Measures how soft a picture is: over how many px its tones go from one end of their range to the other, where they do it fastest.
 * Source: common practice (edge width as range over slope); own measurement.
 */
export function edgeWidthsOf({ width, height, pixels, known }: Level): EdgeWidths {
  const across = Math.ceil(width / CELL);
  const down = Math.ceil(height / CELL);
  const tones = new Uint32Array(across * down * BINS);
  const slopes = new Uint32Array(across * down * BINS);
  const luma = (i: number) => (pixels[4 * i] + 2 * pixels[4 * i + 1] + pixels[4 * i + 2]) >> 2;
  for (let y = 0; y + 1 < height; y++) {
    for (let x = 0; x + 1 < width; x++) {
      const i = y * width + x;
      if (!known[i]) continue;
      const cell = (Math.floor(y / CELL) * across + Math.floor(x / CELL)) * BINS;
      const own = luma(i);
      tones[cell + own]++;
      if (!known[i + 1] || !known[i + width]) continue;
      slopes[cell + Math.min(BINS - 1, Math.round(Math.hypot(luma(i + 1) - own, luma(i + width) - own)))]++;
    }
  }
  sumAround(tones, across, down);
  sumAround(slopes, across, down);
  const widths = new Float32Array(across * down);
  for (let cell = 0; cell < widths.length; cell++) {
    const counts = (of: Uint32Array) => of.subarray(cell * BINS, (cell + 1) * BINS);
    const tone = counts(tones);
    const range = quantileOf(tone, HIGH) - quantileOf(tone, LOW);
    if (range >= FLAT) widths[cell] = range / Math.max(1, quantileOf(counts(slopes), STEEP));
  }
  return {
    at(x, y) {
      const u = Math.min(across - 1, Math.max(0, Math.floor(x / CELL)));
      const v = Math.min(down - 1, Math.max(0, Math.floor(y / CELL)));
      return widths[v * across + u];
    },
  };
}

/** Adds to the counts of each cell those of the cells around it, along rows and then along columns. */
function sumAround(counts: Uint32Array, across: number, down: number): void {
  const along = (start: number, step: number, length: number) => {
    const line = new Uint32Array(length * BINS);
    for (let n = 0; n < length; n++) line.set(counts.subarray(start + n * step, start + n * step + BINS), n * BINS);
    const sum = new Uint32Array(BINS);
    for (let n = -AROUND; n < length; n++) {
      const [enters, leaves] = [n + AROUND, n - AROUND - 1];
      if (enters < length) for (let k = 0; k < BINS; k++) sum[k] += line[enters * BINS + k];
      if (leaves >= 0) for (let k = 0; k < BINS; k++) sum[k] -= line[leaves * BINS + k];
      if (n >= 0) counts.set(sum, start + n * step);
    }
  };
  for (let v = 0; v < down; v++) along(v * across * BINS, BINS, across);
  for (let u = 0; u < across; u++) along(u * BINS, across * BINS, down);
}

function quantileOf(counts: Uint32Array, share: number): number {
  let total = 0;
  for (const c of counts) total += c;
  let left = share * total;
  for (let k = 0; k < BINS; k++) if ((left -= counts[k]) <= 0) return total ? k : 0;
  return BINS - 1;
}
