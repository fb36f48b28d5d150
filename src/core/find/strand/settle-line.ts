import type { Point } from '../../mask/shapes.ts';
import { median } from '../../raster/luma.ts';
import type { CrossProfile } from './cross-profile.ts';
import { smoothLine } from './smooth-line.ts';

/** Median of each value and those up to `reach` beside it. */
export function runningMedian(list: number[], reach: number): number[] {
  return list.map((_, i) => median(list.slice(Math.max(0, i - reach), i + reach + 1)));
}

/** Local straight-line fits over `reach` points on both sides, which keep bends that are longer than that. */
export function smooth(points: Point[], reach: number): Point[] {
  return points.map((_, i) => {
    const r = Math.min(reach, Math.max(1, i), Math.max(1, points.length - 1 - i));
    let x = 0;
    let y = 0;
    let n = 0;
    for (let j = Math.max(0, i - r); j <= Math.min(points.length - 1, i + r); j++) {
      const w = 1 - Math.abs(j - i) / (r + 1);
      x += w * points[j][0];
      y += w * points[j][1];
      n += w;
    }
    return [x / n, y / n];
  });
}

/** px by which centres may scatter, and a single one lie beside the line, before they count half. */
const SCATTER = 0.1;
const BESIDE = 0.5;
/** Measured points to both sides among which scatter is told. */
const AMONG = 8;
/** What centres count of which most neighbours were not seen. */
const UNSEEN = 1e-3;

/** How much measured centres scatter about the line around each point, px; undefined where most were not seen. */
export function scatterOf({ offsets, widths }: CrossProfile): Array<number | undefined> {
  return offsets.map((_, i) => {
    let square = 0;
    let seen = 0;
    const from = Math.max(0, i - AMONG);
    const to = Math.min(offsets.length - 1, i + AMONG);
    for (let j = from; j <= to; j++) {
      if (!widths[j]) continue;
      square += offsets[j] ** 2;
      seen++;
    }
    return 2 * seen > to - from ? Math.sqrt(square / seen) : undefined;
  });
}

/**
 * A smooth line through measured centres: those that agree with their neighbours decide, and over a stretch where the
 * strand is lost in its ground, and centres scatter, the line runs on from both sides of it.
 */
export function interpolated(centres: Point[], measured: CrossProfile, stiffness: number): Point[] {
  const trust = scatterOf(measured).map((s) => (s === undefined ? UNSEEN : 1 / (1 + (s / SCATTER) ** 2)));
  let line = smoothLine(centres, trust, stiffness);
  for (let again = 0; again < 3; again++) {
    const weights = trust.map((w, i) => {
      const away = Math.hypot(line[i][0] - centres[i][0], line[i][1] - centres[i][1]);
      return w / (1 + (away / BESIDE) ** 2);
    });
    line = smoothLine(centres, weights, stiffness);
  }
  return line;
}
