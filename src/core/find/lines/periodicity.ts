import type { Point } from '../../mask/shapes.ts';
import type { Plane } from '../../raster/luma.ts';

/** px to both sides of a line within which its like are looked for, and the least and largest distance between them. */
const REACH = 84;
const CLOSEST = 7;
/** px by which a like line may be off its place. */
const OFF = 1;

/**
 * How much of a line comes again beside it at an even distance, as courses of slates, boards and rows of windows do, and
 * damage does not: the contrast of the weaker of two like lines that stand with it in even steps, over its own; 0 to 1.
 * Common practice: what repeats is of the picture.
 * @param points of the line, px
 * @param across width of the line, px
 */
export function periodicityOf(
  { width, height, data }: Plane,
  points: readonly Point[],
  across: number,
  light: boolean,
): number {
  const n = points.length;
  const sums = new Float64Array(2 * REACH + 1);
  const counts = new Float64Array(2 * REACH + 1);
  for (let i = 0; i < n; i += 2) {
    const a = points[Math.max(0, i - 8)];
    const b = points[Math.min(n - 1, i + 8)];
    const d = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    const [nx, ny] = [-(b[1] - a[1]) / d, (b[0] - a[0]) / d];
    const [x, y] = points[i];
    for (let s = -REACH; s <= REACH; s++) {
      const u = Math.floor(x + nx * s);
      const v = Math.floor(y + ny * s);
      if (u < 0 || v < 0 || u >= width || v >= height) continue;
      sums[s + REACH] += data[v * width + u];
      counts[s + REACH]++;
    }
  }
  const beside = Math.max(2, Math.round(across));
  const sign = light ? 1 : -1;
  // Not a number where most of what lies so far beside the line is outside the picture: nothing is like that.
  const mean = (s: number) => (counts[s + REACH] > n / 8 ? sums[s + REACH] / counts[s + REACH] : NaN);
  const bump = (s: number) => Math.min(sign * (mean(s) - mean(s - beside)), sign * (mean(s) - mean(s + beside)));
  const about = (s: number) => {
    let most = 0;
    for (let o = -OFF; o <= OFF; o++) if (bump(s + o) > most) most = bump(s + o);
    return most;
  };
  const own = about(0);
  if (own <= 0) return 0;
  let best = 0;
  const far = REACH - beside - 2 * OFF;
  for (let step = Math.max(CLOSEST, 2 * beside); step <= far; step++) {
    const [left, right] = [about(-step), about(step)];
    best = Math.max(best, Math.min(left, right));
    if (2 * step > far) continue;
    best = Math.max(best, Math.min(right, about(2 * step)), Math.min(left, about(-2 * step)));
  }
  return Math.min(1, best / own);
}
