import { correlationOf, deviationOf, meanOf, smoothed, Sums, wobbleOf } from './series.ts';
import type { Point } from '../../mask/shapes.ts';
import { colourChannels, type Raster } from '../../raster/raster.ts';
import { fadeModel } from '../scoring/fade-model.ts';
import type { Plane } from '../../raster/luma.ts';
import type { Ridge } from './ridges.ts';
import { planeReader } from '../strand/straightened-band.ts';

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

/** A thin line of which any piece can be measured. */
export interface CurveSamples {
  /** the smoothed centre line, px */
  points: Point[];
  /** Measures the points `from` to `to` − 1; null when nothing stands out along them. */
  measure(from: number, to: number): CurveFeatures | null;
}

/**
 * Reads the picture along and beside thin lines, once for each, however many pieces are then measured.
 * @param crowd how many px of other thin lines there are around a place
 */
export function curveMeter(
  picture: Raster,
  plane: Plane,
  crowd: (place: Point) => number = () => 0,
): (ridge: Ridge, sigma: number) => CurveSamples {
  const read = planeReader(plane.width, plane.height, plane.data);
  return (ridge, sigma) => {
    const points = smoothed(ridge.points, 2);
    const soft = smoothed(ridge.points, 6);
    const n = points.length;
    const sign = ridge.light ? 1 : -1;
    const half = Math.ceil(2.5 * sigma + 2);
    const steps = half * 4;
    const near = 1.6 * sigma + 1;
    const rows = Math.ceil(n / 2);
    const across = new Sums(2 * steps + 1, rows);
    const beside = new Sums(2 * BESIDE + 1, rows);
    const others = new Sums(2, rows);
    const row = new Float64Array(2 * steps + 1);
    const wideRow = new Float64Array(2 * BESIDE + 1);
    const [allTones, allLefts, allRights, allContrasts] = [0, 1, 2, 3].map(() => new Float32Array(rows));
    const allSides = new Float32Array(2 * rows);
    const colour = colourMeter(picture, ridge.light, rows);
    for (let i = 0, k = 0; i < n; i += 2, k++) {
      const a = points[Math.max(0, i - 4)];
      const b = points[Math.min(n - 1, i + 4)];
      const d = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
      const nx = -(b[1] - a[1]) / d;
      const ny = (b[0] - a[0]) / d;
      const [x, y] = points[i];
      for (let s = -steps; s <= steps; s++) row[s + steps] = read(x + (nx * s) / 4, y + (ny * s) / 4);
      across.enter(k, row);
      for (let s = -BESIDE; s <= BESIDE; s++) wideRow[s + BESIDE] = read(x + nx * s, y + ny * s);
      beside.enter(k, wideRow);
      const left = (read(x - nx * half, y - ny * half) + read(x - nx * near, y - ny * near)) / 2;
      const right = (read(x + nx * half, y + ny * half) + read(x + nx * near, y + ny * near)) / 2;
      const tone = (read(x - nx * 0.4, y - ny * 0.4) + read(x, y) + read(x + nx * 0.4, y + ny * 0.4)) / 3;
      const c = sign * (tone - (left + right) / 2);
      allTones[k] = tone;
      allLefts[k] = allSides[2 * k] = left;
      allRights[k] = allSides[2 * k + 1] = right;
      allContrasts[k] = c;
      const stands = Math.min(sign * (tone - left), sign * (tone - right)) > 0.35 * c && c > 2;
      others.enter(k, [stands ? 1 : 0, Math.abs(left - right)]);
      colour.enter(k, [x, y], [x - nx * half, y - ny * half], [x + nx * half, y + ny * half]);
    }
    const strays = new Sums(3, n);
    for (let i = 0; i < n; i++) {
      const before = soft[Math.max(0, i - 1)];
      const stray = Math.hypot(soft[i][0] - ridge.points[i][0], soft[i][1] - ridge.points[i][1]);
      const step = Math.hypot(soft[i][0] - before[0], soft[i][1] - before[1]);
      strays.enter(i, [stray, step, crowd(ridge.points[i])]);
    }
    /** heading from 8 points before each one to it, and how far that turns from the one before */
    const headings = new Float64Array(n);
    const turns = new Float64Array(n);
    for (let i = 8; i < n; i++) {
      headings[i] = Math.atan2(soft[i][1] - soft[i - 8][1], soft[i][0] - soft[i - 8][0]);
      const turn = headings[i] - headings[i - 8];
      if (i >= 16) turns[i] = Math.abs(Math.atan2(Math.sin(turn), Math.cos(turn)));
    }
    /** contrast 3 to 8 px beyond an end, as seen from a place before it */
    const beyond = ([x, y]: Point, [u, v]: Point) => {
      const d = Math.hypot(x - u, y - v) || 1;
      const [hx, hy] = [(x - u) / d, (y - v) / d];
      let sum = 0;
      for (let s = 3; s <= 8; s++) {
        const [p, q] = [x + hx * s, y + hy * s];
        const side = (read(p - hy * half, q + hx * half) + read(p + hy * half, q - hx * half)) / 2;
        sum += sign * (read(p, q) - side);
      }
      return sum / 6;
    };

    const measure = (from: number, to: number): CurveFeatures | null => {
      const [k0, k1] = [Math.ceil(from / 2), Math.ceil(to / 2)];
      const count = k1 - k0;
      if (count < 4) return null;
      const [tones, lefts, rights, contrasts] = [allTones, allLefts, allRights, allContrasts].map((l) =>
        l.subarray(k0, k1),
      );
      const sides = allSides.subarray(2 * k0, 2 * k1);
      const profile = across.means(k0, k1);
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
      const wide = beside.means(k0, k1);
      for (let s = 2; s <= 2 * BESIDE - 2; s++) {
        if (Math.abs(s - BESIDE) <= half) continue;
        const bump = (sign * (wide[s] - (wide[s - 2] + wide[s + 2]) / 2)) / contrast;
        rival = Math.max(rival, bump);
        counter = Math.max(counter, -bump);
      }
      const sorted = contrasts.slice().sort();
      const last = to - 1;
      const ends = [
        beyond(points[from], points[Math.min(last, from + 8)]),
        beyond(points[last], points[Math.max(from, last - 8)]),
      ];
      const [ax, ay] = points[from];
      const [bx, by] = points[last];
      const chord = Math.hypot(bx - ax, by - ay) || 1;
      let off = 0;
      for (let i = from; i < to; i++) {
        const [x, y] = points[i];
        off = Math.max(off, Math.abs((bx - ax) * (ay - y) - (ax - x) * (by - ay)) / chord);
      }
      let turning = 0;
      for (let i = from + 16; i < to; i += 8) {
        turning += turns[i];
      }
      const length = strays.over(from + 1, to, 1);
      const around = strays.over(from, to, 2) / (to - from);
      const wobble = wobbleOf(lefts) / 2 + wobbleOf(rights) / 2;
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
        wobble: wobbleOf(tones) / (wobble + 1),
        lopsided: others.over(k0, k1, 1) / count / contrast,
        lopsidedMean: Math.abs(meanOf(lefts) - meanOf(rights)) / contrast,
        alike: correlationOf(lefts, rights),
        seen: others.over(k0, k1, 0) / count,
        crisp: fall(before, -1) / 2 + fall(after, 1) / 2,
        misfit: Math.sqrt(misfit / (2 * steps + 1)),
        rival,
        counter,
        crowd: Math.max(0, ((around - Math.min(40, to - from)) * 1000) / 1024),
        beyond: Math.max(...ends) / contrast,
        jitter: strays.over(from, to, 0) / (to - from),
        bow: off / chord,
        turning: (turning * 100) / Math.max(30, length),
        ...colour.over(k0, k1),
        light: ridge.light ? 1 : 0,
      };
    };
    return { points, measure };
  };
}

/** Adds up how a line differs in colour from its sides. */
function colourMeter({ width, height, channels, depth, data }: Raster, light: boolean, rows: number) {
  const colours = colourChannels(channels);
  const top = depth === 16 ? 65535 : 255;
  const sums = new Sums(6, rows);
  const values = new Float64Array(6);
  const at = ([x, y]: Point) =>
    (Math.min(height - 1, Math.max(0, Math.floor(y))) * width + Math.min(width - 1, Math.max(0, Math.floor(x)))) *
    channels;
  return {
    enter(row: number, own: Point, left: Point, right: Point) {
      const [i, l, r] = [at(own), at(left), at(right)];
      for (let c = 0; c < 3; c++) {
        const k = Math.min(c, colours - 1);
        values[c] = data[i + k] / top;
        values[c + 3] = (data[l + k] + data[r + k]) / 2 / top;
      }
      sums.enter(row, values);
    },
    over(from: number, to: number) {
      const means = sums.means(from, to);
      return fadeModel([...means.subarray(0, 3)], [...means.subarray(3)], light);
    },
  };
}
