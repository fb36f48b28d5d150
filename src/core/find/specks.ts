import { outlineOf } from '../mask/outline.ts';
import { boxMean, halfPlane, levelQuantiles, noiseLevel, type Plane } from './luma.ts';
import { amongOthers, sigmoid, type Find, type Finder, type FindInput } from './find.ts';

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

/** Places that are lighter, or darker, than all of a ring around them: no edge and no line is. */
function candidates(bare: Plane, level: number, noise: number, into: Candidate[]): void {
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
        let low = Infinity;
        let high = -Infinity;
        for (let k = 0; k < 8; k++) {
          const v = soft.data[i + ring[k]];
          if (v < low) low = v;
          if (v > high) high = v;
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

interface Segment {
  x: number;
  y: number;
  width: number;
  height: number;
  mask: Uint8Array;
  area: number;
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

/** What tells a speck from detail of the picture. */
export interface SpeckFeatures {
  /** contrast over what varies in the annulus around it */
  clear: number;
  /** contrast, levels */
  contrast: number;
  /** area over that of its bounding ellipse: 1 for a disc */
  compact: number;
  /** steepness of its edge: share of the contrast that lies within 1 px of it */
  crisp: number;
  /** how even its inside is: variation over contrast */
  rough: number;
  /** how much the ground varies near it, levels */
  busy: number;
  /** diameter in px */
  size: number;
  /** how many candidates of its kind lie around, per 1000 px² */
  crowd: number;
  /** the strongest like thing around, as a share of its contrast: 1 when there is another as strong */
  rival: number;
  /** the same for all but the strongest twentieth of what is around */
  rivals: number;
}

/** Most samples taken of what lies around a speck. */
const SAMPLES = 900;

function featuresOf(plane: Plane, s: Segment, light: boolean): SpeckFeatures | null {
  const { width, height, data } = plane;
  const rim = Math.max(2, Math.round(Math.sqrt(s.area) * 0.5));
  const far = Math.min(40, 6 + 2 * rim);
  const { left, right, top, bottom } = extent(s);
  const x0 = Math.max(0, left - far);
  const y0 = Math.max(0, top - far);
  const w = Math.min(width - 1, right + far) - x0 + 1;
  const h = Math.min(height - 1, bottom + far) - y0 + 1;
  // 2 inside, 1 touching it, 0 around it.
  const role = new Uint8Array(w * h);
  for (let v = top; v <= bottom; v++) {
    for (let u = left; u <= right; u++) {
      if (!s.mask[(v - s.y) * s.width + u - s.x]) continue;
      for (let q = Math.max(y0, v - 1); q <= Math.min(y0 + h - 1, v + 1); q++)
        for (let p = Math.max(x0, u - 1); p <= Math.min(x0 + w - 1, u + 1); p++) role[(q - y0) * w + p - x0] |= 1;
      role[(v - y0) * w + u - x0] = 2;
    }
  }
  for (let v = top; v <= bottom; v++)
    for (let u = left; u <= right; u++) if (s.mask[(v - s.y) * s.width + u - s.x]) role[(v - y0) * w + u - x0] = 2;
  let [n, sum, square, m, out, outSquare] = [0, 0, 0, 0, 0, 0];
  let [edgeIn, edgeOut, edges] = [0, 0, 0];
  const around: number[] = [];
  const step = Math.max(1, Math.round(Math.sqrt((w * h) / SAMPLES)));
  for (let v = 0; v < h; v++) {
    const y = y0 + v;
    const near = y >= top - rim - 2 && y <= bottom + rim + 2;
    for (let u = 0; u < w; u++) {
      const x = x0 + u;
      const k = v * w + u;
      const value = data[y * width + x];
      if (role[k] === 2) {
        n++;
        sum += value;
        square += value * value;
        for (let side = 0; side < 4; side++) {
          const dx = side === 0 ? 1 : side === 1 ? -1 : 0;
          const dy = side === 2 ? 1 : side === 3 ? -1 : 0;
          const [p, q] = [u + dx, v + dy];
          if (p >= 0 && q >= 0 && p < w && q < h && role[q * w + p] === 2) continue;
          const ox = Math.min(width - 1, Math.max(0, x + 2 * dx));
          const oy = Math.min(height - 1, Math.max(0, y + 2 * dy));
          edgeIn += value;
          edgeOut += data[oy * width + ox];
          edges++;
        }
        continue;
      }
      if (role[k]) continue;
      if (k % step === 0) around.push(value);
      if (!near || x < left - rim - 2 || x > right + rim + 2) continue;
      m++;
      out += value;
      outSquare += value * value;
    }
  }
  if (!n || m < 6 || !edges) return null;
  const inside = sum / n;
  const ground = out / m;
  const contrast = light ? inside - ground : ground - inside;
  if (contrast <= 0) return null;
  const busy = Math.sqrt(Math.max(0, outSquare / m - ground * ground));
  const [strong, strongest] = levelQuantiles(around, light ? [0.95, 0.995] : [0.05, 0.005]);
  const spread = Math.sqrt(Math.max(0, square / n - inside * inside));
  return {
    clear: contrast / (busy + 1),
    contrast,
    compact: n / ((Math.PI / 4) * (right - left + 1) * (bottom - top + 1)),
    crisp: ((light ? 1 : -1) * (edgeIn - edgeOut)) / edges / contrast,
    rough: spread / contrast,
    busy,
    size: Math.sqrt((4 * n) / Math.PI),
    crowd: 0,
    rival: (light ? strongest - ground : ground - strongest) / contrast,
    rivals: (light ? strong - ground : ground - strong) / contrast,
  };
}

/** First and last column and row of a segment, px of the picture. */
function extent(s: Segment): { left: number; right: number; top: number; bottom: number } {
  let [left, right, top, bottom] = [Infinity, -1, Infinity, -1];
  for (let v = 0, k = 0; v < s.height; v++) {
    for (let u = 0; u < s.width; u++, k++) {
      if (!s.mask[k]) continue;
      left = Math.min(left, s.x + u);
      right = Math.max(right, s.x + u);
      top = Math.min(top, s.y + v);
      bottom = Math.max(bottom, s.y + v);
    }
  }
  return { left, right, top, bottom };
}

/** A segment with what was measured on it, before it is scored. */
export interface SpeckCandidate {
  find: Omit<Find, 'score'>;
  features: SpeckFeatures;
}

/** Everything that may be a speck, with its features; overlapping ones only once. */
export function speckCandidates(input: FindInput, onProgress?: (done: number) => void): SpeckCandidate[] {
  const { width, height } = input.picture;
  const plane: Plane = { width, height, data: input.luma };
  const list: Candidate[] = [];
  let level = plane;
  for (let l = 0; l < LEVELS && Math.min(level.width, level.height) > 4 * RADII[1]; l++) {
    candidates(level, l, noiseLevel(level), list);
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
    const features = featuresOf(plane, s, c.light);
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

/** Weights of {@link speckScore}; see `bench/train-specks.ts`. */
export const SPECK_WEIGHTS = {
  bias: -11.08,
  clear: 3.98,
  compact: -8.12,
  crisp: 3.61,
  rough: 2.38,
  busy: 0.208,
  crowd: -0.53,
  rival: -3.38,
  rivals: 0.634,
  size: 3.84,
};

/** The features as they are weighed: on scales on which a step counts about the same everywhere. */
export function speckVector(f: SpeckFeatures): SpeckFeatures {
  return {
    clear: Math.log(Math.min(20, Math.max(0.5, f.clear))),
    contrast: Math.log1p(f.contrast),
    compact: Math.abs(Math.min(1.3, f.compact) - 1),
    crisp: Math.min(1.6, f.crisp),
    rough: Math.min(0.6, f.rough),
    busy: Math.log1p(f.busy),
    size: Math.log(f.size),
    crowd: Math.log1p(f.crowd),
    rival: Math.min(2, Math.max(0, f.rival)),
    rivals: Math.min(1.5, Math.max(0, f.rivals)),
  };
}

/** How sure it is that something is a speck and no detail of the picture. */
export function speckScore(f: SpeckFeatures): number {
  const v = speckVector(f);
  let sum = SPECK_WEIGHTS.bias;
  for (const [key, weight] of Object.entries(SPECK_WEIGHTS))
    if (key !== 'bias') sum += weight * v[key as keyof SpeckFeatures];
  return sigmoid(sum);
}

/**
 * Finds specks: dust, pinholes, sensor marks and drops, lighter or darker than their ground, 1 to 60 px. A place is
 * taken up when it stands out from every part of a ring around it, at one of eight sizes; detail of the picture is told
 * from it by contrast over what goes on around, shape, edge and evenness.
 * Source: own; centre–surround comparison at several scales is common practice.
 */
export const specks: Finder = {
  find(input, onProgress) {
    const { width, height } = input.picture;
    const scored = speckCandidates(input, onProgress).map(({ find, features }) => ({
      ...find,
      score: speckScore(features),
    }));
    return amongOthers(scored, width, height).filter((f) => f.score > 0.08);
  },
};
