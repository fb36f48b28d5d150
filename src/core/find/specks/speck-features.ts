import { colourOf, extent, type Segment } from './speck-colour.ts';
import type { Raster } from '../../raster/raster.ts';
import { levelQuantiles, type Plane } from '../../raster/luma.ts';

/** What tells a speck from detail of the picture. None depends on which way the picture is turned. */
export const SPECK_FEATURES = [
  /** contrast over what varies close around it */
  'clear',
  /** contrast, levels */
  'contrast',
  /** area over that of the ellipse with its second moments: 1 for an ellipse */
  'solid',
  /** short over long axis */
  'aspect',
  /** share of its contrast that lies within 1 px of its edge */
  'crisp',
  /** variation inside over contrast, whole and without its rim */
  'rough',
  'roughCore',
  /** what is left when an even ellipse with a soft edge is subtracted, over contrast; the softness that fits best, px */
  'misfit',
  'soft',
  /** the same at its edge and inside, over that outside */
  'misfitRatio',
  /** variation of the ground near it and further around, levels */
  'busy',
  'busyFar',
  /** difference of neighbouring pixels inside and around, levels */
  'grain',
  'grainFar',
  /** diameter, px */
  'size',
  /** candidates around, per 1000 px² */
  'crowd',
  /** the strongest like thing around, and all but the strongest twentieth, as shares of its contrast */
  'rival',
  'rivals',
  /** the same for what differs the other way */
  'counter',
  'counters',
  /** how far the tones around it differ from each other, over contrast: beside an edge much */
  'lopsided',
  /** contrast against the most alike of eight sectors around it, over contrast */
  'least',
  /** share of the colour difference that is no fading to white or black */
  'coloured',
  /** colour of the ground, 0 grey to 1 */
  'saturation',
  /** contrast over the room to white or black */
  'opacity',
  'light',
] as const;

export type SpeckFeatures = Record<(typeof SPECK_FEATURES)[number], number>;

/** Most samples taken of what lies around a speck. */
const SAMPLES = 900;

/** Measures a segment of `plane` that is lighter or darker than its ground; null when there is no such difference. */
export function speckFeatures(picture: Raster, plane: Plane, s: Segment, light: boolean): SpeckFeatures | null {
  const { width, height, data } = plane;
  const sign = light ? 1 : -1;
  const rim = Math.max(2, Math.round(Math.sqrt(s.area) * 0.5));
  const far = Math.min(40, 6 + 2 * rim);
  const { left, right, top, bottom } = extent(s);
  const x0 = Math.max(0, left - far);
  const y0 = Math.max(0, top - far);
  const w = Math.min(width - 1, right + far) - x0 + 1;
  const h = Math.min(height - 1, bottom + far) - y0 + 1;
  // 2 inside, 1 touching it, 0 around it.
  const role = new Uint8Array(w * h);
  let [n, mx, my, xx, yy, xy] = [0, 0, 0, 0, 0, 0];
  for (let v = top; v <= bottom; v++) {
    for (let u = left; u <= right; u++) {
      if (!s.mask[(v - s.y) * s.width + u - s.x]) continue;
      n++;
      const [p, q] = [u - x0, v - y0];
      mx += p;
      my += q;
      xx += p * p;
      yy += q * q;
      xy += p * q;
      for (let b = Math.max(0, q - 1); b <= Math.min(h - 1, q + 1); b++)
        for (let a = Math.max(0, p - 1); a <= Math.min(w - 1, p + 1); a++) role[b * w + a] |= 1;
    }
  }
  if (!n) return null;
  for (let v = top; v <= bottom; v++)
    for (let u = left; u <= right; u++) if (s.mask[(v - s.y) * s.width + u - s.x]) role[(v - y0) * w + u - x0] = 2;
  mx /= n;
  my /= n;
  // Second moments, with those of a pixel itself.
  xx = xx / n - mx * mx + 1 / 12;
  yy = yy / n - my * my + 1 / 12;
  xy = xy / n - mx * my;
  const half = (xx + yy) / 2;
  const root = Math.sqrt(Math.max(0, ((xx - yy) / 2) ** 2 + xy * xy));
  const long = half + root;
  const short = Math.max(1 / 12, half - root);
  const radius = 2 * Math.sqrt(short);

  let [sum, square, core, coreSum, coreSquare] = [0, 0, 0, 0, 0];
  let [m, out, outSquare] = [0, 0, 0];
  let [edgeIn, edgeOut, edges] = [0, 0, 0];
  let [grain, grains, grainFar, grainsFar] = [0, 0, 0, 0];
  const sectorSum = new Float64Array(8);
  const sectorN = new Float64Array(8);
  const around: number[] = [];
  const step = Math.max(1, Math.round(Math.sqrt((w * h) / SAMPLES)));
  const nearX0 = Math.max(0, left - rim - 2 - x0);
  const nearX1 = Math.min(w - 1, right + rim + 2 - x0);
  for (let v = 0; v < h; v++) {
    const y = y0 + v;
    const near = y >= top - rim - 2 && y <= bottom + rim + 2;
    for (let u = 0; u < w; u++) {
      const k = v * w + u;
      const i = y * width + x0 + u;
      const value = data[i];
      if (role[k] === 2) {
        sum += value;
        square += value * value;
        let whole = true;
        for (let side = 0; side < 4; side++) {
          const dx = side === 0 ? 1 : side === 1 ? -1 : 0;
          const dy = side === 2 ? 1 : side === 3 ? -1 : 0;
          const [p, q] = [u + dx, v + dy];
          if (p >= 0 && q >= 0 && p < w && q < h && role[q * w + p] === 2) continue;
          whole = false;
          const ox = Math.min(width - 1, Math.max(0, x0 + u + 2 * dx));
          const oy = Math.min(height - 1, Math.max(0, y + 2 * dy));
          edgeIn += value;
          edgeOut += data[oy * width + ox];
          edges++;
        }
        if (whole) {
          core++;
          coreSum += value;
          coreSquare += value * value;
          grain += Math.abs(value - data[i + 1]) + Math.abs(value - data[i + width]);
          grains += 2;
        }
        continue;
      }
      if (role[k]) continue;
      if (k % step === 0) {
        around.push(value);
        if (u + 1 < w && v + 1 < h) {
          grainFar += Math.abs(value - data[i + 1]) + Math.abs(value - data[i + width]);
          grainsFar += 2;
        }
      }
      if (!near || u < nearX0 || u > nearX1) continue;
      m++;
      out += value;
      outSquare += value * value;
      const sector = Math.floor((Math.atan2(v - my, u - mx) / (2 * Math.PI) + 1) * 8) & 7;
      sectorSum[sector] += value;
      sectorN[sector]++;
    }
  }
  if (m < 6 || !edges) return null;
  const inside = sum / n;
  const ground = out / m;
  const contrast = sign * (inside - ground);
  if (contrast <= 0) return null;
  const busy = Math.sqrt(Math.max(0, outSquare / m - ground * ground));
  let [low, high] = [Infinity, -Infinity];
  for (let k = 0; k < 8; k++) {
    if (!sectorN[k]) continue;
    low = Math.min(low, sectorSum[k] / sectorN[k]);
    high = Math.max(high, sectorSum[k] / sectorN[k]);
  }
  let [farSum, farSquare] = [0, 0];
  for (const v of around) {
    farSum += v;
    farSquare += v * v;
  }
  farSum /= around.length;
  const [lows, low5, high95, highs] = levelQuantiles(around, [0.005, 0.05, 0.95, 0.995]);

  // An even ellipse with a soft edge, fitted by least squares at a few softnesses.
  const det = xx * yy - xy * xy;
  let fit = { left: Infinity, soft: 0, inner: 0, outer: 1 };
  for (const share of [0.12, 0.3, 0.6]) {
    const soft = Math.max(0.5, share * radius);
    let [c, sy, sx, sxx, sxy, syy] = [0, 0, 0, 0, 0, 0];
    const shares: number[] = [];
    const values: number[] = [];
    for (let v = Math.max(0, top - rim - 2 - y0); v <= Math.min(h - 1, bottom + rim + 2 - y0); v++) {
      for (let u = nearX0; u <= nearX1; u++) {
        const [p, q] = [u - mx, v - my];
        const d = Math.sqrt(Math.max(0, (yy * p * p - 2 * xy * p * q + xx * q * q) / det)) / 2;
        const a = Math.min(1, Math.max(0, 0.5 + ((1 - d) * radius) / (2 * soft)));
        const value = data[(y0 + v) * width + x0 + u];
        shares.push(a);
        values.push(value);
        c++;
        sx += a;
        sy += value;
        sxx += a * a;
        sxy += a * value;
        syy += value * value;
      }
    }
    const spread = sxx - (sx * sx) / c;
    if (spread <= 0) continue;
    const slope = (sxy - (sx * sy) / c) / spread;
    const base = (sy - slope * sx) / c;
    const total = Math.sqrt(Math.max(0, (syy - (sy * sy) / c - slope * slope * spread) / c));
    if (total >= fit.left) continue;
    let [ri, ni, ro, no] = [0, 0, 0, 0];
    for (let k = 0; k < c; k++) {
      const r = (values[k] - base - slope * shares[k]) ** 2;
      if (shares[k] > 0.02) {
        ri += r;
        ni++;
      } else {
        ro += r;
        no++;
      }
    }
    fit = { left: total, soft, inner: Math.sqrt(ri / Math.max(1, ni)), outer: Math.sqrt(ro / Math.max(1, no)) };
  }

  const spread = (total: number, squares: number, count: number) =>
    count ? Math.sqrt(Math.max(0, squares / count - (total / count) ** 2)) : 0;
  const colour = colourOf(picture, role, x0, y0, w, h, light);
  return {
    clear: contrast / (busy + 1),
    contrast,
    solid: n / (4 * Math.PI * Math.sqrt(long * short)),
    aspect: Math.sqrt(short / long),
    crisp: (sign * (edgeIn - edgeOut)) / edges / contrast,
    rough: spread(sum, square, n) / contrast,
    roughCore: core > 3 ? spread(coreSum, coreSquare, core) / contrast : -1,
    misfit: fit.left / contrast,
    soft: fit.soft / radius,
    misfitRatio: fit.inner / (fit.outer + 1),
    busy,
    busyFar: Math.sqrt(Math.max(0, farSquare / around.length - farSum * farSum)),
    grain: grains ? grain / grains : -1,
    grainFar: grainsFar ? grainFar / grainsFar : 0,
    size: Math.sqrt((4 * n) / Math.PI),
    crowd: 0,
    rival: (light ? highs - ground : ground - lows) / contrast,
    rivals: (light ? high95 - ground : ground - low5) / contrast,
    counter: (light ? ground - lows : highs - ground) / contrast,
    counters: (light ? ground - low5 : high95 - ground) / contrast,
    lopsided: (high - low) / contrast,
    least: (light ? inside - high : low - inside) / contrast,
    ...colour,
    light: light ? 1 : 0,
  };
}
