import type { Point } from '../mask/shapes.ts';
import { colourChannels, type Raster } from '../raster/raster.ts';
import { fading } from './fading.ts';
import type { Plane } from './luma.ts';
import { lengthOf, type Ridge } from './ridges.ts';
import { planeReader } from './strip.ts';

/** What tells a hair or scratch from a line of the picture. None depends on which way the picture is turned. */
export const CURVE_FEATURES = [
  /** px */
  'length',
  'width',
  /** blur under which it was found, px */
  'sigma',
  /** levels of 255 */
  'contrast',
  /** contrast over the variation beside it from place to place, and over the whole variation there */
  'clear',
  'clearWide',
  /** the weakest tenth and quarter of the contrast along it, over contrast */
  'weakest',
  'weaker',
  /** variation of its own tone along it over contrast, and over the variation beside it */
  'uneven',
  'unevenRatio',
  /** its own tone from place to place, over contrast */
  'wobble',
  /** difference of the tones on its two sides over contrast: beside an edge of the picture they differ */
  'lopsided',
  /** the same for the mean over its length */
  'lopsidedMean',
  /** how far what lies on its two sides varies alike: over a line that lies on the picture it does */
  'alike',
  /** share of the line along which it stands out on both sides */
  'seen',
  /** steepness of its edges: share of its contrast that falls within 1.5 px at half its width */
  'crisp',
  /** what is left of its profile when an even bar is subtracted, over contrast */
  'misfit',
  /** the strongest line beside it that runs as it does, the same way and the other, over contrast */
  'rival',
  'counter',
  /** other thin lines around it, px of line per 1000 px² */
  'crowd',
  /** how it stops: contrast 3 to 8 px beyond its ends, over contrast; the less sure end */
  'beyond',
  /** distance of its points from the smoothed line, px */
  'jitter',
  /** largest distance from the chord over the chord, and turning in radians per 100 px */
  'bow',
  'turning',
  /** share of the colour difference that is no fading to white or black */
  'coloured',
  /** contrast over the room to white or black */
  'opacity',
  'light',
] as const;

export type CurveFeatures = Record<(typeof CURVE_FEATURES)[number], number>;

/** px to both sides of a line within which lines that run as it does are looked for. */
const BESIDE = 18;

export function smoothed(points: readonly Point[], reach: number): Point[] {
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

const meanOf = (list: ArrayLike<number>): number => {
  let s = 0;
  for (let i = 0; i < list.length; i++) s += list[i];
  return s / Math.max(1, list.length);
};

const deviationOf = (list: ArrayLike<number>): number => {
  const m = meanOf(list);
  let s = 0;
  for (let i = 0; i < list.length; i++) s += (list[i] - m) ** 2;
  return Math.sqrt(s / Math.max(1, list.length));
};

/** Variation from one place to the next: slow shading does not count. */
const wobbleOf = (list: ArrayLike<number>): number => {
  let s = 0;
  for (let i = 1; i < list.length; i++) s += (list[i] - list[i - 1]) ** 2;
  return Math.sqrt(s / Math.max(1, list.length - 1) / 2);
};

const correlationOf = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  const [ma, mb] = [meanOf(a), meanOf(b)];
  let [ab, aa, bb] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    ab += (a[i] - ma) * (b[i] - mb);
    aa += (a[i] - ma) ** 2;
    bb += (b[i] - mb) ** 2;
  }
  return ab / (Math.sqrt(aa * bb) + 1e-6);
};

/** Measures curves of one picture: a closure, since it is asked for thousands. `crowd` is left at 0. */
export function curveMeter(picture: Raster, plane: Plane): (ridge: Ridge, sigma: number) => CurveFeatures | null {
  const read = planeReader(plane.width, plane.height, plane.data);
  return (ridge, sigma) => {
    const points = smoothed(ridge.points, 2);
    const n = points.length;
    const sign = ridge.light ? 1 : -1;
    const half = Math.ceil(2.5 * sigma + 2);
    const steps = half * 4;
    const near = 1.6 * sigma + 1;
    const profile = new Float32Array(2 * steps + 1);
    const wide = new Float32Array(2 * BESIDE + 1);
    const count = Math.ceil(n / 2);
    const [tones, lefts, rights, contrasts] = [0, 1, 2, 3].map(() => new Float32Array(count));
    const sides = new Float32Array(2 * count);
    const colour = colourMeter(picture, ridge.light);
    let [seen, lopsided, k] = [0, 0, 0];
    for (let i = 0; i < n; i += 2, k++) {
      const a = points[Math.max(0, i - 4)];
      const b = points[Math.min(n - 1, i + 4)];
      const d = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
      const nx = -(b[1] - a[1]) / d;
      const ny = (b[0] - a[0]) / d;
      const [x, y] = points[i];
      for (let s = -steps; s <= steps; s++) profile[s + steps] += read(x + (nx * s) / 4, y + (ny * s) / 4);
      for (let s = -BESIDE; s <= BESIDE; s++) wide[s + BESIDE] += read(x + nx * s, y + ny * s);
      const left = (read(x - nx * half, y - ny * half) + read(x - nx * near, y - ny * near)) / 2;
      const right = (read(x + nx * half, y + ny * half) + read(x + nx * near, y + ny * near)) / 2;
      const tone = (read(x - nx * 0.4, y - ny * 0.4) + read(x, y) + read(x + nx * 0.4, y + ny * 0.4)) / 3;
      const c = sign * (tone - (left + right) / 2);
      tones[k] = tone;
      lefts[k] = left;
      rights[k] = right;
      sides[2 * k] = left;
      sides[2 * k + 1] = right;
      contrasts[k] = c;
      if (Math.min(sign * (tone - left), sign * (tone - right)) > 0.35 * c && c > 2) seen++;
      lopsided += Math.abs(left - right);
      colour.add(x, y, x - nx * half, y - ny * half, x + nx * half, y + ny * half);
    }
    for (let s = 0; s < profile.length; s++) profile[s] /= count;
    const ground = (profile[0] + profile[profile.length - 1]) / 2;
    const contrast = sign * (profile[steps] - ground);
    if (contrast <= 1.5) return null;

    const edge = (direction: 1 | -1) => {
      for (let s = steps; s > 0 && s < profile.length - 1; s += direction) {
        const v = (sign * (profile[s + direction] - ground)) / contrast;
        if (v < 0.5) {
          const u = (sign * (profile[s] - ground)) / contrast;
          return (Math.abs(s - steps) + (u - 0.5) / Math.max(1e-6, u - v)) / 4;
        }
      }
      return half;
    };
    const [before, after] = [edge(-1), edge(1)];
    const fall = (at: number, direction: 1 | -1) => {
      const value = (t: number) =>
        profile[Math.min(profile.length - 1, Math.max(0, Math.round(steps + direction * t * 4)))];
      return (sign * (value(at - 0.75) - value(at + 0.75))) / contrast;
    };
    let misfit = 0;
    for (let s = -steps; s <= steps; s++) {
      const t = s / 4;
      const bar = Math.min(1, Math.max(0, 0.5 + before + t)) * Math.min(1, Math.max(0, 0.5 + after - t));
      misfit += ((sign * (profile[s + steps] - ground)) / contrast - bar) ** 2;
    }
    // Lines beside it: bumps of the mean profile over the straight line between its own flanks.
    let [rival, counter] = [0, 0];
    for (let s = 2; s <= 2 * BESIDE - 2; s++) {
      if (Math.abs(s - BESIDE) <= half) continue;
      const bump = (sign * (wide[s] - (wide[s - 2] + wide[s + 2]) / 2)) / count / contrast;
      rival = Math.max(rival, bump);
      counter = Math.max(counter, -bump);
    }
    const sorted = contrasts.slice().sort();
    const beyond = ([x, y]: Point, [u, v]: Point) => {
      const d = Math.hypot(x - u, y - v) || 1;
      const [hx, hy] = [(x - u) / d, (y - v) / d];
      let sum = 0;
      for (let s = 3; s <= 8; s++) {
        const [p, q] = [x + hx * s, y + hy * s];
        const side = (read(p - hy * half, q + hx * half) + read(p + hy * half, q - hx * half)) / 2;
        sum += sign * (read(p, q) - side);
      }
      return sum / 6 / contrast;
    };
    const ends = [beyond(points[0], points[Math.min(n - 1, 8)]), beyond(points[n - 1], points[Math.max(0, n - 9)])];
    const [ax, ay] = points[0];
    const [bx, by] = points[n - 1];
    const chord = Math.hypot(bx - ax, by - ay) || 1;
    let off = 0;
    for (const [x, y] of points) off = Math.max(off, Math.abs((bx - ax) * (ay - y) - (ax - x) * (by - ay)) / chord);
    const soft = smoothed(ridge.points, 6);
    let turning = 0;
    for (let i = 16; i < n; i += 8) {
      const p = Math.atan2(soft[i - 8][1] - soft[i - 16][1], soft[i - 8][0] - soft[i - 16][0]);
      const q = Math.atan2(soft[i][1] - soft[i - 8][1], soft[i][0] - soft[i - 8][0]);
      turning += Math.abs(Math.atan2(Math.sin(q - p), Math.cos(q - p)));
    }
    let jitter = 0;
    for (let i = 0; i < n; i++) jitter += Math.hypot(soft[i][0] - ridge.points[i][0], soft[i][1] - ridge.points[i][1]);
    const length = lengthOf(soft);
    const beside = wobbleOf(lefts) / 2 + wobbleOf(rights) / 2;
    return {
      length,
      width: before + after,
      sigma,
      contrast,
      clear: contrast / (wobbleOf(sides) + 1),
      clearWide: contrast / (deviationOf(sides) + 1),
      weakest: sorted[Math.floor(0.1 * count)] / contrast,
      weaker: sorted[Math.floor(0.25 * count)] / contrast,
      uneven: deviationOf(tones) / contrast,
      unevenRatio: deviationOf(tones) / (deviationOf(sides) + 1),
      wobble: wobbleOf(tones) / (beside + 1),
      lopsided: lopsided / count / contrast,
      lopsidedMean: Math.abs(meanOf(lefts) - meanOf(rights)) / contrast,
      alike: correlationOf(lefts, rights),
      seen: seen / count,
      crisp: fall(before, -1) / 2 + fall(after, 1) / 2,
      misfit: Math.sqrt(misfit / (2 * steps + 1)),
      rival,
      counter,
      crowd: 0,
      beyond: Math.max(...ends),
      jitter: jitter / n,
      bow: off / chord,
      turning: (turning * 100) / Math.max(30, length),
      ...colour.result(),
      light: ridge.light ? 1 : 0,
    };
  };
}

/** Adds up how a line differs in colour from its sides. */
function colourMeter({ width, height, channels, depth, data }: Raster, light: boolean) {
  const colours = colourChannels(channels);
  const top = depth === 16 ? 65535 : 255;
  const own = [0, 0, 0];
  const ground = [0, 0, 0];
  let n = 0;
  const at = (x: number, y: number) =>
    (Math.min(height - 1, Math.max(0, Math.floor(y))) * width + Math.min(width - 1, Math.max(0, Math.floor(x)))) *
    channels;
  return {
    add(x: number, y: number, lx: number, ly: number, rx: number, ry: number) {
      const [i, l, r] = [at(x, y), at(lx, ly), at(rx, ry)];
      n++;
      for (let c = 0; c < 3; c++) {
        const k = Math.min(c, colours - 1);
        own[c] += data[i + k] / top;
        ground[c] += (data[l + k] + data[r + k]) / 2 / top;
      }
    },
    result: () =>
      fading(
        own.map((v) => v / n),
        ground.map((v) => v / n),
        light,
      ),
  };
}
