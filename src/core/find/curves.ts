import type { Point } from '../mask/shapes.ts';
import { simplified } from '../mask/outline.ts';
import { findRidges, joinRidges, lengthOf, type Ridge } from './ridges.ts';
import { amongOthers, sigmoid, type Find, type Finder, type FindInput, type FoundKind } from './find.ts';
import type { Plane } from './luma.ts';
import { strandOutline } from './strand.ts';
import { planeReader } from './strip.ts';

/** Blurs under which thin lines are looked for: widths of about 1 to 3 and 3 to 6 px. */
const SIGMAS = [1, 2];
const SHORTEST = 22;

/** What tells a hair or scratch from a line of the picture. */
export interface CurveFeatures {
  /** length, px */
  length: number;
  /** contrast over the variation beside it */
  clear: number;
  /** levels of 255 */
  contrast: number;
  /** variation of its own tone along it over its contrast: damage has one tone, lines of the picture shade off */
  uneven: number;
  /** difference of the tones on its two sides over its contrast: beside an edge of the picture they differ */
  lopsided: number;
  /** share of the line along which it stands out on both sides */
  seen: number;
  /** steepness of its edges: share of its contrast that falls within 1.5 px at half its width */
  crisp: number;
  /** other thin lines around it, px of line per 1000 px² */
  crowd: number;
}

interface Measured {
  features: CurveFeatures;
  width: number;
  contrast: number;
  /** largest distance from the chord over the chord's length, and total turning in radians per 100 px */
  bow: number;
  turning: number;
}

function smoothed(points: Point[], reach: number): Point[] {
  return points.map((_, i) => {
    const r = Math.min(reach, i, points.length - 1 - i);
    let x = 0;
    let y = 0;
    for (let j = i - r; j <= i + r; j++) {
      x += points[j][0];
      y += points[j][1];
    }
    return [x / (2 * r + 1), y / (2 * r + 1)];
  });
}

function measure(read: (x: number, y: number) => number, ridge: Ridge, sigma: number): Measured | null {
  const points = ridge.points;
  const n = points.length;
  const sign = ridge.light ? 1 : -1;
  const half = Math.ceil(2.5 * sigma + 2);
  const steps = half * 4;
  const mean = new Float32Array(2 * steps + 1);
  const tones: number[] = [];
  const sides: number[] = [];
  let seen = 0;
  let lopsided = 0;
  let samples = 0;
  for (let i = 0; i < n; i += 2) {
    const a = points[Math.max(0, i - 4)];
    const b = points[Math.min(n - 1, i + 4)];
    const d = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    const nx = -(b[1] - a[1]) / d;
    const ny = (b[0] - a[0]) / d;
    const [x, y] = points[i];
    const at = (t: number) => read(x + nx * t, y + ny * t);
    const far = half;
    const near = 1.6 * sigma + 1;
    const left = (at(-far) + at(-near)) / 2;
    const right = (at(far) + at(near)) / 2;
    const tone = (at(-0.4) + at(0) + at(0.4)) / 3;
    tones.push(tone);
    sides.push(left, right);
    const c = sign * (tone - (left + right) / 2);
    if (sign * (tone - Math.max(sign * left, sign * right) * sign) > 0.35 * c && c > 2) seen++;
    lopsided += Math.abs(left - right);
    for (let k = -steps; k <= steps; k++) mean[k + steps] += at(k / 4);
    samples++;
  }
  for (let k = 0; k < mean.length; k++) mean[k] /= samples;
  const ground = (mean[0] + mean[mean.length - 1]) / 2;
  const contrast = sign * (mean[steps] - ground);
  if (contrast <= 1.5) return null;
  const edge = (direction: 1 | -1) => {
    for (let k = steps; k > 0 && k < mean.length - 1; k += direction) {
      const v = (sign * (mean[k + direction] - ground)) / contrast;
      if (v < 0.5) {
        const u = (sign * (mean[k] - ground)) / contrast;
        return (Math.abs(k - steps) + (u - 0.5) / Math.max(1e-6, u - v)) / 4;
      }
    }
    return half;
  };
  const fall = (at: number, direction: 1 | -1) => {
    const k = (t: number) => mean[Math.min(mean.length - 1, Math.max(0, Math.round(steps + direction * t * 4)))];
    return (sign * (k(at - 0.75) - k(at + 0.75))) / contrast;
  };
  const deviation = (list: number[]) => {
    const m = list.reduce((s, v) => s + v, 0) / list.length;
    return Math.sqrt(list.reduce((s, v) => s + (v - m) ** 2, 0) / list.length);
  };
  /** Variation from one place to the next: slow shading does not count. */
  const wobble = (list: number[]) => {
    let s = 0;
    for (let i = 1; i < list.length; i++) s += (list[i] - list[i - 1]) ** 2;
    return Math.sqrt(s / Math.max(1, list.length - 1) / 2);
  };
  const [ax, ay] = points[0];
  const [bx, by] = points[n - 1];
  const chord = Math.hypot(bx - ax, by - ay) || 1;
  let off = 0;
  for (const [x, y] of points) off = Math.max(off, Math.abs((bx - ax) * (ay - y) - (ax - x) * (by - ay)) / chord);
  const soft = smoothed(points, 6);
  let turning = 0;
  for (let i = 16; i < n; i += 8) {
    const p = Math.atan2(soft[i - 8][1] - soft[i - 16][1], soft[i - 8][0] - soft[i - 16][0]);
    const q = Math.atan2(soft[i][1] - soft[i - 8][1], soft[i][0] - soft[i - 8][0]);
    turning += Math.abs(Math.atan2(Math.sin(q - p), Math.cos(q - p)));
  }
  const length = lengthOf(soft);
  return {
    width: edge(-1) + edge(1),
    contrast: sign * contrast,
    bow: off / chord,
    turning: (turning * 100) / Math.max(30, length),
    features: {
      length,
      clear: contrast / (wobble(sides) + 1),
      contrast,
      uneven: deviation(tones) / contrast,
      lopsided: lopsided / samples / contrast,
      seen: seen / samples,
      crisp: fall(edge(-1), -1) / 2 + fall(edge(1), 1) / 2,
      crowd: 0,
    },
  };
}

/** The features as they are weighed. */
export function curveVector(f: CurveFeatures): CurveFeatures {
  return {
    length: Math.log(Math.min(800, f.length)),
    clear: Math.log(Math.min(20, Math.max(0.3, f.clear))),
    contrast: Math.log1p(f.contrast),
    uneven: Math.min(2, f.uneven),
    lopsided: Math.min(2, f.lopsided),
    seen: f.seen,
    crisp: Math.min(1.2, f.crisp),
    crowd: Math.log1p(f.crowd),
  };
}

/** Weights of {@link curveScore}; see `bench/train-curves.ts`. */
export const CURVE_WEIGHTS = {
  bias: -20.2,
  length: 2.28,
  clear: 0.943,
  uneven: -5.5,
  lopsided: -6.47,
  seen: 5.71,
  crisp: 10.9,
  crowd: -0.515,
};

export function curveScore(f: CurveFeatures): number {
  const v = curveVector(f);
  let sum = CURVE_WEIGHTS.bias;
  for (const [key, weight] of Object.entries(CURVE_WEIGHTS))
    if (key !== 'bias') sum += weight * v[key as keyof CurveFeatures];
  return sigmoid(sum);
}

/** A thin line and what it may be. */
export interface CurveCandidate {
  find: Omit<Find, 'score'>;
  points: Point[];
  features: CurveFeatures;
}

function kindOf(m: Measured, length: number, longSide: number): FoundKind {
  const straight = m.bow < 0.03 && m.turning < 0.9;
  // Common practice: wires are long, dark more often than not, and sag; damage of prints is light more often than not.
  if (length > 0.28 * longSide && m.turning < 0.5 && m.contrast < 0) return 'strand';
  if (straight || (length > 0.2 * longSide && m.turning < 0.8)) return 'scratch';
  return 'hair';
}

/** Every thin line of a picture that may be a hair, a scratch or a wire, with what was measured on it. */
export function curveCandidates(input: FindInput, onProgress?: (done: number) => void): CurveCandidate[] {
  const { width, height } = input.picture;
  const plane: Plane = { width, height, data: input.luma };
  const out: CurveCandidate[] = [];
  const owner = new Uint8Array(width * height);
  const cells = new Float32Array(Math.ceil(width / 32) * Math.ceil(height / 32));
  const cell = ([x, y]: Point) =>
    Math.min(
      cells.length - 1,
      Math.floor(Math.min(height - 1, y) / 32) * Math.ceil(width / 32) + Math.floor(Math.min(width - 1, x) / 32),
    );
  const longSide = Math.max(width, height);
  const read = planeReader(width, height, input.luma);
  const all: Array<{ ridge: Ridge; sigma: number }> = [];
  SIGMAS.forEach((sigma, n) => {
    for (const ridge of joinRidges(findRidges(plane, { sigma, least: 8 }))) all.push({ ridge, sigma });
    onProgress?.((n + 1) / (SIGMAS.length + 1));
  });
  for (const { ridge, sigma } of all) if (sigma === SIGMAS[0]) for (const p of ridge.points) cells[cell(p)]++;
  all.sort((a, b) => b.ridge.strength * b.ridge.points.length - a.ridge.strength * a.ridge.points.length);
  for (const { ridge, sigma } of all) {
    if (ridge.points.length < SHORTEST) continue;
    let covered = 0;
    for (const [x, y] of ridge.points) if (owner[Math.floor(y) * width + Math.floor(x)]) covered++;
    if (covered > 0.5 * ridge.points.length) continue;
    const m = measure(read, ridge, sigma);
    if (!m) continue;
    const r = Math.ceil(m.width / 2 + 1);
    for (const [x, y] of ridge.points) {
      for (let v = Math.max(0, Math.floor(y) - r); v <= Math.min(height - 1, Math.floor(y) + r); v++)
        owner.fill(1, v * width + Math.max(0, Math.floor(x) - r), v * width + Math.min(width, Math.floor(x) + r + 1));
    }
    let crowd = 0;
    for (const p of ridge.points) crowd += cells[cell(p)];
    m.features.crowd = Math.max(0, ((crowd / ridge.points.length - Math.min(40, ridge.points.length)) * 1000) / 1024);
    const line = smoothed(ridge.points, 2);
    const points = simplified(line, 0.4);
    const outline = strandOutline({ points, widths: points.map(() => m.width) }, 0.2);
    const xs = outline.map((p) => p[0]);
    const ys = outline.map((p) => p[1]);
    const x0 = Math.max(0, Math.floor(Math.min(...xs)));
    const y0 = Math.max(0, Math.floor(Math.min(...ys)));
    out.push({
      points: line,
      features: m.features,
      find: {
        kind: kindOf(m, m.features.length, longSide),
        shapes: [{ op: 'add', kind: 'strand', points, size: Math.max(1, m.width + 0.4) }],
        box: {
          x: x0,
          y: y0,
          width: Math.min(width, Math.ceil(Math.max(...xs))) - x0,
          height: Math.min(height, Math.ceil(Math.max(...ys))) - y0,
        },
        width: m.width,
        length: m.features.length,
        contrast: m.contrast,
      },
    });
  }
  return out;
}

/**
 * Finds hairs, scratches and wires: thin lines that stand out from both their sides, in one even tone.
 * Source: crest lines after Steger 1998 (see `ridges.ts`); what tells damage from lines of the picture is own measurement
 * (`bench/train-curves.ts`).
 */
export const curves: Finder = {
  find(input, onProgress) {
    const { width, height } = input.picture;
    const scored = curveCandidates(input, onProgress).map(({ find, features }) => ({
      ...find,
      score: curveScore(features),
    }));
    return amongOthers(scored, width, height, (f) => Math.min(1.5, f.length / 100), 1 / 6).filter(
      (f) => f.score > 0.08,
    );
  },
};
