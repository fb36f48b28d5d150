import { median } from '../../raster/luma.ts';
import type { Model, Sector } from './model.ts';

/** Sectors over which the strength of a stain is evened out along its edge. */
const WIDE = 3;
/** How many times as far as neighbours sectors have to scatter for the stain itself to vary. */
const SURELY = 2;
/** Most that a stain is stronger or weaker at one place of its edge than usual. */
const MOST = 0.3;

/**
 * How strong a stain is at each sector of its edge, beside its usual strength: measured, evened out along the edge, and drawn towards 1
 * as far as sectors scatter anyhow. Source: shrinkage of means, James & Stein 1961, with robust spreads.
 */
export function strengthAlong(sectors: ReadonlyArray<Sector | null>, { gain, offset }: Model): number[] {
  const own = sectors.map((s) => {
    if (!s) return null;
    const change = s.outside.map((v, c) => (gain[c] - 1) * v + offset[c]);
    const size = change.reduce((sum, v) => sum + v * v, 0);
    const along = change.reduce((sum, v, c) => sum + v * (s.inside[c] - s.outside[c]), 0);
    return size > 1 ? { by: along / size, weight: size } : null;
  });
  const n = sectors.length;
  const values = own.flatMap((v) => (v ? [v.by] : []));
  if (values.length < 6) return sectors.map(() => 1);
  const middle = median(values);
  const apart = own.flatMap((v, i) => {
    const next = own[(i + 1) % n];
    return v && next ? [Math.abs(next.by - v.by)] : [];
  });
  // Neighbours differ by chance alone; what all differ by beyond that is the stain's.
  const chance = (1.4826 * median(apart)) ** 2 / 2;
  const spread = (1.4826 * median(values.map((v) => Math.abs(v - middle)))) ** 2;
  const beyond = spread - SURELY * chance;
  if (beyond <= 0) return sectors.map(() => 1);
  const share = beyond / (beyond + chance / (2 * WIDE + 1));
  return own.map((_, i) => {
    let [sum, weight] = [0, 0];
    for (let k = -2 * WIDE; k <= 2 * WIDE; k++) {
      const v = own[(i + k + n) % n];
      if (!v) continue;
      const w = v.weight * Math.exp(-(k * k) / (2 * WIDE * WIDE));
      sum += w * Math.max(-MOST, Math.min(MOST, v.by - 1));
      weight += w;
    }
    return 1 + (weight ? (share * sum) / weight : 0);
  });
}
