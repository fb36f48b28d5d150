import { blur } from '../../../raster/planes.ts';
import type { Raster } from '../../../raster/raster.ts';
import type { Light } from '../light.ts';
import { cellsOf, Logs } from './lit.ts';

/** Cells over which depth is smoothed: grain and weave are no shade. */
const SMOOTH = 1;
/** Most that is taken for shade, natural logarithm: what is darker is dark by itself. */
const MOST = 1.2;

/**
 * What a shadow leaves of the light where it lies, against what is lit at the same height.
 * @param light its fall-off, which counts as taken off
 * @param usable 1 where pixels count
 * @param shadow 1 where it lies
 * @returns at a px, 1 outside the shadow
 * Source: common practice (shade as a factor of what lies beneath it).
 */
export function shadeWithin(
  picture: Raster,
  light: Light | null,
  usable: Uint8Array,
  shadow: Uint8Array,
): (x: number, y: number) => number {
  const { width, height } = picture;
  const { by, w, h, depths } = cellsOf(new Logs(picture, light), usable);
  const isShadow = (x: number, y: number) => shadow[Math.min(height - 1, y) * width + Math.min(width - 1, x)];
  const half = by >> 1;
  const own = depths.map((depth, o) =>
    depth > 0 && isShadow((o % w) * by + half, Math.floor(o / w) * by + half) ? Math.min(MOST, depth) : 0,
  );
  const soft = blur(own, w, h, SMOOTH);
  const at = (v: number, n: number) => Math.min(n - 1, Math.max(0, v));
  return (x, y) => {
    if (!shadow[y * width + x]) return 1;
    const [u, v] = [at((x + 0.5) / by - 0.5, w), at((y + 0.5) / by - 0.5, h)];
    const [left, top] = [Math.floor(u), Math.floor(v)];
    const row = (r: number) => {
      const a = soft[r * w + left];
      return a + (u - left) * (soft[r * w + at(left + 1, w)] - a);
    };
    const upper = row(top);
    return Math.exp(-(upper + (v - top) * (row(at(top + 1, h)) - upper)));
  };
}
