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
 * Measures how soft a picture is: over how many px its tones go from one end of their range to the other, where they do it fastest. Cells are
 * measured when somebody asks for them: a window is far larger than what is covered in it.
 * Source: common practice (edge width as range over slope); own measurement.
 */
export function edgeWidthsOf({ width, height, pixels, known }: Level): EdgeWidths {
  const across = Math.ceil(width / CELL);
  const down = Math.ceil(height / CELL);
  const widths = new Float32Array(across * down).fill(NaN);
  const tones = new Uint32Array(BINS);
  const slopes = new Uint32Array(BINS);
  const luma = (i: number) => (pixels[4 * i] + 2 * pixels[4 * i + 1] + pixels[4 * i + 2]) >> 2;
  const measure = (u: number, v: number): number => {
    tones.fill(0);
    slopes.fill(0);
    const [x0, y0] = [Math.max(0, (u - AROUND) * CELL), Math.max(0, (v - AROUND) * CELL)];
    const [x1, y1] = [Math.min(width - 1, (u + AROUND + 1) * CELL), Math.min(height - 1, (v + AROUND + 1) * CELL)];
    for (let y = y0; y < y1; y++) {
      for (let x = x0, i = y * width + x0; x < x1; x++, i++) {
        if (!known[i]) continue;
        const own = luma(i);
        tones[own]++;
        if (!known[i + 1] || !known[i + width]) continue;
        const [dx, dy] = [luma(i + 1) - own, luma(i + width) - own];
        slopes[Math.min(BINS - 1, Math.round(Math.sqrt(dx * dx + dy * dy)))]++;
      }
    }
    const range = quantileOf(tones, HIGH) - quantileOf(tones, LOW);
    return range >= FLAT ? range / Math.max(1, quantileOf(slopes, STEEP)) : 0;
  };
  return {
    at(x, y) {
      const u = Math.min(across - 1, Math.max(0, Math.floor(x / CELL)));
      const v = Math.min(down - 1, Math.max(0, Math.floor(y / CELL)));
      const cell = v * across + u;
      if (widths[cell] !== widths[cell]) widths[cell] = measure(u, v);
      return widths[cell];
    },
  };
}

function quantileOf(counts: Uint32Array, share: number): number {
  let total = 0;
  for (const c of counts) total += c;
  let left = share * total;
  for (let k = 0; k < BINS; k++) if ((left -= counts[k]) <= 0) return total ? k : 0;
  return BINS - 1;
}
