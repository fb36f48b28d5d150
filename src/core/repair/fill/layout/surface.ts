import { median } from '../../../raster/luma.ts';
import { solveRows } from '../../../raster/solve.ts';
import { boundsOf } from '../../../mask/mask.ts';
import type { Level } from './levels.ts';
import { shownAt, windowAlone } from './mirrored.ts';

/** How the tone of a ground rises and falls over a window, on the large. */
export interface Surface {
  /** tone of a channel at a pixel of the level, up to a constant; 8-bit scale */
  rise(channel: number, x: number, y: number): number;
}

/** Share of the variation a surface must explain to count at all, and wholly. */
const EXPLAINS: [number, number] = [0.45, 0.8];
const TERMS = 6;

/**
 * Fits a surface of second order to the known pixels around a cover, those close by counting most: the light of a sky, a wall or a
 * floor. Null where it explains little, since the ground is textured and not shaded.
 */
export function surfaceOf(level: Level): Surface | null {
  const { width, height, pixels, known, cover } = windowAlone(level);
  const box = boundsOf({ x: 0, y: 0, width, height, data: cover });
  const unit = Math.max(box.width, box.height, 8);
  const [cx, cy] = [box.x + box.width / 2, box.y + box.height / 2];
  const step = Math.max(1, Math.round(Math.sqrt((width * height) / 4000)));
  const at: number[] = [];
  const weights: number[] = [];
  for (let y = 0; y < height; y += step) {
    for (let x = 0; x < width; x += step) {
      if (!known[y * width + x]) continue;
      at.push(y * width + x);
      weights.push(1 / (1 + (((x - cx) / unit) ** 2 + ((y - cy) / unit) ** 2) ** 2));
    }
  }
  if (at.length < 60) return null;
  const terms = (x: number, y: number) => {
    const [u, v] = [(x - cx) / unit, (y - cy) / unit];
    return [1, u, v, u * u, u * v, v * v];
  };
  const rows = at.map((i) => terms(i % width, Math.floor(i / width)));
  const coefficients: number[][] = [];
  let [rest, all] = [0, 0];
  for (let c = 0; c < 3; c++) {
    const values = at.map((i) => pixels[4 * i + c]);
    const own = weights.slice();
    let fitted: number[] = [];
    // Once more without what lies far off.
    for (let round = 0; round < 3; round++) {
      fitted = solve(rows, values, own);
      const off = values.map((v, n) => Math.abs(v - dot(rows[n], fitted)));
      const spread = median(off) * 3 + 1;
      for (let n = 0; n < own.length; n++) own[n] = off[n] > 2 * spread ? 0 : weights[n];
    }
    const total = own.reduce((a, b) => a + b, 0);
    const mean = values.reduce((a, v, n) => a + own[n] * v, 0) / total;
    values.forEach((v, n) => {
      all += own[n] * (v - mean) ** 2;
      rest += own[n] * (v - dot(rows[n], fitted)) ** 2;
    });
    coefficients.push(fitted);
  }
  const explained = all > 0 ? 1 - rest / all : 0;
  const share = Math.min(1, Math.max(0, (explained - EXPLAINS[0]) / (EXPLAINS[1] - EXPLAINS[0])));
  if (share === 0) return null;
  return { rise: (c, x, y) => share * dot(terms(...shownAt(width, level.beneath, x, y)), coefficients[c]) };
}

const dot = (a: readonly number[], b: readonly number[]) => a.reduce((s, v, k) => s + v * b[k], 0);

function solve(rows: number[][], values: number[], weights: number[]): number[] {
  const a = Array.from({ length: TERMS }, () => new Float64Array(TERMS + 1));
  rows.forEach((row, n) => {
    for (let i = 0; i < TERMS; i++) {
      for (let j = 0; j < TERMS; j++) a[i][j] += weights[n] * row[i] * row[j];
      a[i][TERMS] += weights[n] * row[i] * values[n];
    }
  });
  for (let i = 0; i < TERMS; i++) a[i][i] += 1e-6;
  return solveRows(a)!;
}
