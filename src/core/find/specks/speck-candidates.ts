import { outlineOf } from '../../mask/outline.ts';
import { boxMean, halfPlane, noiseLevel, type Plane } from '../../raster/luma.ts';
import type { Find, FindInput } from '../find.ts';
import type { Segment } from './speck-colour.ts';
import { speckFeatures, type SpeckFeatures } from './speck-features.ts';

/** Places on a ring of radius 1, every 45°. */
const RING = Array.from({ length: 8 }, (_, k) => [Math.cos((k * Math.PI) / 4), Math.sin((k * Math.PI) / 4)] as const);
/** Radii of the rings at each level of the pyramid, px of that level. */
const RADII = [3, 5];
const LEVELS = 4;
/** Levels of 255 below which nothing is looked at. */
const LEAST = 5;

interface Candidate {
  x: number;
  y: number;
  /** reach of the ring, px of the picture */
  reach: number;
  light: boolean;
  /** how far it stands out from the whole ring */
  response: number;
  /** the same over what goes on around it */
  rank: number;
}

/** Where specks are looked for, and how strictly. */
export interface SpeckSearch {
  /** one a px of the picture; only where it is not 0 may the middle of a speck lie */
  where?: Uint8Array;
  /** how many of the eight places of a ring may be as light (or dark) as the speck: 0 unless things may touch it */
  spare?: 0 | 1;
}

/** Places that are lighter, or darker, than all of a ring around them: no edge and no line is. */
function candidates(
  bare: Plane,
  level: number,
  noise: number,
  into: Candidate[],
  { where, spare = 0 }: SpeckSearch,
  whole: { width: number; height: number },
): void {
  const pad = RADII[RADII.length - 1];
  const plane = padded(bare, pad);
  const { width, height, data } = plane;
  const soft = boxMean(plane, 1);
  const mean = boxMean(plane, 8).data;
  const square = boxMean({ width, height, data: data.map((v) => v * v) }, 8).data;
  for (const radius of RADII) {
    const ring = RING.map(([dx, dy]) => Math.round(dy * radius) * width + Math.round(dx * radius));
    // A single pixel counts by itself only at the finest level; elsewhere it has been averaged already.
    const centre = level === 0 && radius === RADII[0] ? data : soft.data;
    const found = new Float32Array(width * height);
    const least = Math.max(LEAST, 3 * noise);
    for (let y = pad; y < height - pad; y++) {
      for (let x = pad; x < width - pad; x++) {
        const i = y * width + x;
        const c = centre[i];
        if (where) {
          const v = Math.min(whole.height - 1, Math.round((y - pad + 0.5) * 2 ** level - 0.5));
          const u = Math.min(whole.width - 1, Math.round((x - pad + 0.5) * 2 ** level - 0.5));
          if (!where[v * whole.width + u]) continue;
        }
        // Most places lie between two opposite ones of the ring, or near one of them.
        const a = soft.data[i + ring[0]];
        const b = soft.data[i + ring[4]];
        if (!spare && (c > a ? c < a + least || c < b + least : c > a - least || c > b - least)) continue;
        let low = Infinity;
        let high = -Infinity;
        let low2 = Infinity;
        let high2 = -Infinity;
        for (let k = 0; k < 8; k++) {
          const v = soft.data[i + ring[k]];
          if (v < low) {
            low2 = low;
            low = v;
          } else if (v < low2) low2 = v;
          if (v > high) {
            high2 = high;
            high = v;
          } else if (v > high2) high2 = v;
        }
        if (spare) {
          low = low2;
          high = high2;
        }
        const light = c - high;
        const dark = low - c;
        const r = light > dark ? light : -dark;
        const size = r < 0 ? -r : r;
        if (size < least || size < 0.6 * (high - low)) continue;
        if (size * size > 2 * (square[i] - mean[i] * mean[i])) found[i] = r;
      }
    }
    for (let y = pad; y < height - pad; y++) {
      for (let x = pad; x < width - pad; x++) {
        const i = y * width + x;
        const r = found[i];
        if (r === 0) continue;
        const size = Math.abs(r);
        let best = true;
        for (let v = -1; v <= 1 && best; v++) {
          for (let u = -1; u <= 1; u++) {
            const other = Math.abs(found[i + v * width + u]);
            if (other > size || (other === size && v * width + u < 0)) best = false;
          }
        }
        if (!best) continue;
        const scale = 2 ** level;
        into.push({
          x: (x - pad + 0.5) * scale - 0.5,
          y: (y - pad + 0.5) * scale - 0.5,
          reach: radius * scale,
          light: r > 0,
          response: size,
          rank: size,
        });
      }
    }
  }
}

/** The plane with a border that repeats its edge. */
function padded({ width, height, data }: Plane, pad: number): Plane {
  const w = width + 2 * pad;
  const out = new Float32Array(w * (height + 2 * pad));
  for (let y = 0; y < height + 2 * pad; y++) {
    const from = Math.min(height - 1, Math.max(0, y - pad)) * width;
    out.set(data.subarray(from, from + width), y * w + pad);
    out.fill(data[from], y * w, y * w + pad);
    out.fill(data[from + width - 1], y * w + pad + width, (y + 1) * w);
  }
  return { width: w, height: height + 2 * pad, data: out };
}

/** The connected pixels around a candidate that are nearer to its tone than to that of the ring; null when they run away. */
function segment(plane: Plane, c: Candidate): (Segment & { inside: number; ground: number }) | null {
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
  const ground = ring[12];
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
  const first = grow((tone + ground) / 2);
  if (first.touches) return null;
  // Once more from the mean tone of what was found: the extreme of a noisy speck lies beyond its tone.
  const second = grow((first.mean + ground) / 2);
  const used = second.touches ? first : second;
  return { x: x0, y: y0, width: w, height: h, mask: used.mask, area: used.area, inside: used.mean, ground };
}

/** A segment with what was measured on it, before it is scored. */
export interface SpeckCandidate {
  find: Omit<Find, 'score'>;
  features: SpeckFeatures;
}

/** Everything that may be a speck, with its features; overlapping ones only once. */
export function speckCandidates(
  input: FindInput,
  onProgress?: (done: number) => void,
  search: SpeckSearch = {},
): SpeckCandidate[] {
  const { width, height } = input.picture;
  const plane: Plane = { width, height, data: input.luma };
  const list: Candidate[] = [];
  let level = plane;
  for (let l = 0; l < LEVELS && Math.min(level.width, level.height) > 4 * RADII[1]; l++) {
    candidates(level, l, noiseLevel(level), list, search, plane);
    onProgress?.(0.1 * (l + 1));
    level = halfPlane(level);
  }
  // Where much is going on, what stands out least is dropped: nobody sees a speck there.
  list.sort((a, b) => b.rank - a.rank || a.reach - b.reach || a.y - b.y || a.x - b.x);
  const out: SpeckCandidate[] = [];
  const taken = new Uint8Array(width * height);
  const centres = crowding(list, width, height);
  let n = 0;
  for (const c of list) {
    if (++n % 2000 === 0) onProgress?.(0.4 + (0.6 * n) / list.length);
    const at = Math.min(height - 1, Math.round(c.y)) * width + Math.min(width - 1, Math.round(c.x));
    if (taken[at]) continue;
    const s = segment(plane, c);
    if (!s) continue;
    const features = speckFeatures(input.picture, plane, s, c.light);
    if (!features || features.clear < 1.2) continue;
    let overlap = 0;
    for (let v = 0, k = 0; v < s.height; v++)
      for (let u = 0; u < s.width; u++, k++) if (s.mask[k] && taken[(s.y + v) * width + s.x + u]) overlap++;
    if (overlap > 0.3 * s.area) continue;
    for (let v = 0, k = 0; v < s.height; v++)
      for (let u = 0; u < s.width; u++, k++) if (s.mask[k]) taken[(s.y + v) * width + s.x + u] = 1;
    features.crowd = centres(c.x, c.y);
    const points = outlineOf(s.mask, s.width, s.height, s.x, s.y);
    const xs = points.map((p) => p[0]);
    const ys = points.map((p) => p[1]);
    const box = { x: Math.min(...xs), y: Math.min(...ys), width: 0, height: 0 };
    box.width = Math.max(...xs) - box.x;
    box.height = Math.max(...ys) - box.y;
    out.push({
      features,
      find: {
        kind: 'speck',
        shapes: [{ op: 'add', kind: 'outline', points }],
        box,
        width: features.size,
        length: Math.max(box.width, box.height),
        contrast: (c.light ? 1 : -1) * features.contrast,
      },
    });
  }
  return out;
}

/** How many candidates lie around a place, per 1000 px², counted in cells of 32 px and their neighbours. */
function crowding(list: Candidate[], width: number, height: number): (x: number, y: number) => number {
  const side = 32;
  const w = Math.ceil(width / side);
  const h = Math.ceil(height / side);
  const cells = new Float32Array(w * h);
  const cell = (x: number, y: number) =>
    Math.min(h - 1, Math.max(0, Math.floor(y / side))) * w + Math.min(w - 1, Math.max(0, Math.floor(x / side)));
  for (const c of list) cells[cell(c.x, c.y)]++;
  const mean = boxMean({ width: w, height: h, data: cells }, 1);
  return (x, y) => (mean.data[cell(x, y)] * 1000) / (side * side);
}
