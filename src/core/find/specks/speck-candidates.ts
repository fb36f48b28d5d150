import { outlineOf } from '../../mask/outline.ts';
import { boxMean, halfPlane, noiseLevel, type Plane } from '../../raster/luma.ts';
import type { Find, FindInput } from '../find.ts';
import { segment, type RingPlace } from './speck-segment.ts';
import { speckFeatures, type SpeckFeatures } from './speck-features.ts';

/** Places on a ring of radius 1, every 45°. */
const RING = Array.from({ length: 8 }, (_, k) => [Math.cos((k * Math.PI) / 4), Math.sin((k * Math.PI) / 4)] as const);
/** Radii of the rings at each level of the pyramid, px of that level. */
const RADII = [3, 5];
const LEVELS = 4;
/** Level of the pyramid from which on ground may slope. */
const SLOPING = 2;
/** The square of how far a place stands out over the variance around it, at the least: a large one is much of that itself. */
const OVER_VARIANCE = { fine: 2, sloping: 0.7 };
/** Levels of 255 below which nothing is looked at. */
const LEAST = 5;

interface Candidate extends RingPlace {
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
    const over = level < SLOPING ? OVER_VARIANCE.fine : OVER_VARIANCE.sloping;
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
        const between = (a + b) / 2;
        if (!spare && (c > between ? c < between + least : c > between - least)) continue;
        // What slopes evenly across the ring is taken off: large ones lie on such ground.
        let gx = 0;
        let gy = 0;
        if (level >= SLOPING) {
          for (let k = 0; k < 8; k++) {
            gx += soft.data[i + ring[k]] * RING[k][0];
            gy += soft.data[i + ring[k]] * RING[k][1];
          }
          gx /= 4;
          gy /= 4;
        }
        let low = Infinity;
        let high = -Infinity;
        let low2 = Infinity;
        let high2 = -Infinity;
        for (let k = 0; k < 8; k++) {
          const v = soft.data[i + ring[k]] - gx * RING[k][0] - gy * RING[k][1];
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
        if (size * size > over * (square[i] - mean[i] * mean[i])) found[i] = r;
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

/** How clear a candidate is at the least; large ones with things as strong around them, such as stones and leaves, have to be clearer. */
const CLEAR = 1.2;
const LARGE = { size: 34, clear: 3.5, others: 0.5 };

const isPlain = ({ size, clear, rivals, counters }: SpeckFeatures): boolean =>
  size <= LARGE.size || clear >= LARGE.clear || Math.max(rivals, counters) <= LARGE.others;

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
    if (!features || features.clear < CLEAR || !isPlain(features)) continue;
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
