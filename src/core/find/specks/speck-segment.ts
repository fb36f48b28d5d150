import type { Plane } from '../../raster/luma.ts';
import type { Segment } from './speck-colour.ts';

/** A place that stands out from all of a ring around it. */
export interface RingPlace {
  x: number;
  y: number;
  /** reach of the ring, px of the picture */
  reach: number;
  light: boolean;
}

/** Which of the places of a ring in the order of their tones is near the lightest. */
const NEAREST = 21;

/** The connected pixels around a candidate that are nearer to its tone than to that of the ring; null when they run away. */
export function segment(plane: Plane, c: RingPlace): (Segment & { inside: number; ground: number }) | null {
  const { width, height, data } = plane;
  const reach = Math.ceil(c.reach * 1.25) + 1;
  const cx = Math.round(c.x);
  const cy = Math.round(c.y);
  const x0 = Math.max(0, cx - reach);
  const y0 = Math.max(0, cy - reach);
  const w = Math.min(width - 1, cx + reach) - x0 + 1;
  const h = Math.min(height - 1, cy + reach) - y0 + 1;
  const ring: number[] = [];
  for (let k = 0; k < 24; k++) {
    const a = (k * Math.PI) / 12;
    const u = Math.min(width - 1, Math.max(0, Math.round(c.x + c.reach * Math.cos(a))));
    const v = Math.min(height - 1, Math.max(0, Math.round(c.y + c.reach * Math.sin(a))));
    ring.push(data[v * width + u]);
  }
  ring.sort((p, q) => p - q);
  let ground = ring[12];
  // The most telling pixel near the middle, since the middle of a ring may lie beside a small speck.
  let seed = -1;
  let tone = ground;
  const near = Math.max(1, Math.round(c.reach * 0.35));
  for (let v = Math.max(y0, cy - near); v <= Math.min(y0 + h - 1, cy + near); v++) {
    for (let u = Math.max(x0, cx - near); u <= Math.min(x0 + w - 1, cx + near); u++) {
      const value = data[v * width + u];
      if (c.light ? value > tone : value < tone) {
        tone = value;
        seed = (v - y0) * w + u - x0;
      }
    }
  }
  if (seed < 0) return null;
  const grow = (threshold: number) => {
    const mask = new Uint8Array(w * h);
    const stack = [seed];
    mask[seed] = 1;
    let area = 0;
    let sum = 0;
    let touches = false;
    while (stack.length) {
      const i = stack.pop()!;
      const u = i % w;
      const v = (i - u) / w;
      area++;
      sum += data[(y0 + v) * width + x0 + u];
      if (
        (u === 0 && x0 > 0) ||
        (v === 0 && y0 > 0) ||
        (u === w - 1 && x0 + w < width) ||
        (v === h - 1 && y0 + h < height)
      )
        touches = true;
      for (let dv = -1; dv <= 1; dv++) {
        for (let du = -1; du <= 1; du++) {
          const p = u + du;
          const q = v + dv;
          if (p < 0 || q < 0 || p >= w || q >= h || mask[q * w + p]) continue;
          const value = data[(y0 + q) * width + x0 + p];
          if (c.light ? value <= threshold : value >= threshold) continue;
          mask[q * w + p] = 1;
          stack.push(q * w + p);
        }
      }
    }
    return { mask, area, mean: sum / area, touches };
  };
  let first = grow((tone + ground) / 2);
  if (first.touches) {
    // Ground that is uneven runs into it: then the part of it counts that is nearest to its tone.
    ground = ring[c.light ? NEAREST : ring.length - 1 - NEAREST];
    first = grow((tone + ground) / 2);
  }
  if (first.touches) return null;
  // Once more from the mean tone of what was found: the extreme of a noisy speck lies beyond its tone.
  const second = grow((first.mean + ground) / 2);
  const used = second.touches ? first : second;
  return { x: x0, y: y0, width: w, height: h, mask: used.mask, area: used.area, inside: used.mean, ground };
}
