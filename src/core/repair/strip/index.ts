import { rasterise, shiftShapes, type Point } from '../../mask/shapes.ts';
import { emptyPatch } from '../../raster/patch.ts';
import { blur } from '../../raster/planes.ts';
import { colourChannels, fullScale, intersect, isEmpty, type Box, type Raster } from '../../raster/raster.ts';
import { solveRows } from '../../raster/solve.ts';
import type { Beneath, RepairMethod, Rendered } from '../method.ts';
import type { StripSpec } from '../spec.ts';
import { shadingOf, STEPS } from './profile.ts';

/** Shares of the strip's height: how far its shadow on the floor reaches, and over what its light and colour are evened along it. */
const CONTACT = 0.3;
const EVENED = 0.8;
/** How dark its shadow is where strip and floor meet. */
const DARKEST = 0.55;
/** px beyond which brightness is tone, and below which it is grain. */
const GRAIN = 1.4;
/** px over which it goes over into what stands before it. */
const EDGE = 0.8;
/** Samples a px, each way: its edges are as fine as the picture's. */
const SAMPLES = 3;
/** Difference of light from end to end that is told, in parts of it. */
const TOLD = 0.06;

const far = ([ax, ay]: Point, [bx, by]: Point): number => Math.hypot(ax - bx, ay - by);

/** How high a strip is, px: of its two ends on average. */
export const heightOf = ([a, b, c, d]: StripSpec['corners']): number => (far(a, d) + far(b, c)) / 2;

/**
 * The projective map from the picture to a strip: 0…1 along it, and 0…1 from its upper edge to its lower.
 * @returns eight numbers; null where its corners lie on a line
 */
export function ontoStrip(corners: StripSpec['corners']): number[] | null {
  const to: Point[] = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ];
  const rows = corners.flatMap(([x, y], k) => {
    const [u, v] = to[k];
    return [Float64Array.of(x, y, 1, 0, 0, 0, -u * x, -u * y, u), Float64Array.of(0, 0, 0, x, y, 1, -v * x, -v * y, v)];
  });
  const map = solveRows(rows, 1e-9);
  return map?.every(Number.isFinite) ? map : null;
}

function placeOn([a, b, c, d, e, f, g, h]: readonly number[], x: number, y: number): Point {
  const w = g * x + h * y + 1;
  return [(a * x + b * y + c) / w, (d * x + e * y + f) / w];
}

/** The box of a strip and its shadow, with what is looked at above it. */
function boxesOf({ corners }: StripSpec, width: number, height: number): { drawn: Box; read: Box } {
  const high = heightOf(corners);
  const [xs, ys] = [corners.map((p) => p[0]), corners.map((p) => p[1])];
  const [left, top] = [Math.floor(Math.min(...xs)) - 1, Math.floor(Math.min(...ys)) - 1];
  const [right, bottom] = [Math.ceil(Math.max(...xs)) + 1, Math.ceil(Math.max(...ys) + CONTACT * high) + 1];
  const picture = { x: 0, y: 0, width, height };
  const above = Math.ceil(1.5 * high) + 4;
  return {
    drawn: intersect({ x: left, y: top, width: right - left, height: bottom - top }, picture),
    read: intersect({ x: left, y: top - above, width: right - left, height: bottom - top + above }, picture),
  };
}

/** What the ground above a strip is like along it: its tone, a column each, evened. */
function tonesAlong(picture: Raster, read: Box, spec: StripSpec, guard: Uint8Array): Float32Array[] {
  const [[ax, ay], [bx, by]] = spec.corners;
  const high = heightOf(spec.corners);
  const { width, height, channels, data } = picture;
  const colours = colourChannels(channels);
  const edgeAt = (x: number) => ay + ((by - ay) * (x - ax)) / (bx - ax || 1);
  const sums = Array.from({ length: colours }, () => new Float32Array(width));
  const known = new Float32Array(width);
  for (let x = 0; x < width; x++) {
    const bottom = Math.min(height, Math.round(edgeAt(x + read.x) - read.y - 0.1 * high));
    for (let y = Math.max(0, bottom - Math.ceil(high)); y < bottom; y++) {
      const i = y * width + x;
      if (guard[i]) continue;
      known[x]++;
      for (let c = 0; c < colours; c++) sums[c][x] += data[i * channels + c];
    }
  }
  const sigma = Math.max(2, EVENED * high);
  const weight = blur(known, width, 1, sigma);
  const all = known.reduce((s, v) => s + v, 0);
  return sums.map((sum) => {
    const mean = sum.reduce((s, v) => s + v, 0) / Math.max(1, all);
    return blur(sum, width, 1, sigma).map((v, x) => (weight[x] > 1e-3 ? v / weight[x] : mean));
  });
}

/** Which end the light is stronger at, in words; measured along the ground above. */
function sideInWords(tones: readonly Float32Array[]): string {
  const [tone] = tones;
  const part = Math.max(1, Math.floor(tone.length / 5));
  const mean = (from: number) => tone.subarray(from, from + part).reduce((s, v) => s + v, 0) / part;
  const [left, right] = [mean(0), mean(tone.length - part)];
  const differs = (left - right) / Math.max(1, (left + right) / 2);
  return Math.abs(differs) < TOLD ? 'evenly from above' : `from above and the ${differs > 0 ? 'left' : 'right'}`;
}

/** The grain of what lies above a strip, brought down onto it: px of the same column, mirrored at its upper edge; none beside what stands there. */
function grainOf(picture: Raster, guard: Uint8Array): Float32Array {
  const { width, height, channels, data } = picture;
  const plane = Float32Array.from({ length: width * height }, (_, i) => data[i * channels]);
  const smooth = blur(plane, width, height, GRAIN);
  const beside = blur(Float32Array.from(guard), width, height, 2 * GRAIN);
  return plane.map((v, i) => (beside[i] > 1 ? 0 : v - smooth[i]));
}

/** What of a px lies on a strip, how light it is there, and how dark the shadow beside it: means over samples. */
function sampled(map: readonly number[], shading: Float64Array, darkest: number, x: number, y: number) {
  let [on, light, shade] = [0, 0, 0];
  for (let k = 0; k < SAMPLES * SAMPLES; k++) {
    const px = x + ((k % SAMPLES) + 0.5) / SAMPLES;
    const py = y + (Math.floor(k / SAMPLES) + 0.5) / SAMPLES;
    const [u, v] = placeOn(map, px, py);
    if (!(u >= 0 && u <= 1 && v >= 0 && v < 1 + CONTACT)) continue;
    if (v < 1) {
      on++;
      light += shading[Math.min(STEPS - 1, Math.floor(v * STEPS))];
    } else shade += darkest * (1 - (v - 1) / CONTACT) ** 2;
  }
  const all = SAMPLES * SAMPLES;
  return { share: on / all, light: on ? light / on : 0, shade: shade / all };
}

function render({ width, height, read: readFrom }: Beneath, spec: StripSpec): Rendered {
  const map = ontoStrip(spec.corners);
  const { drawn, read } = boxesOf(spec, width, height);
  const high = heightOf(spec.corners);
  if (!map || high < 2) throw new Error('The strip has no height. Draw its lower edge and give it one.');
  if (isEmpty(drawn)) throw new Error('The strip lies outside the picture. Draw its lower edge on the picture.');
  const picture = readFrom(read);
  const guard = rasterise(spec.guard, read).data;
  const tones = tonesAlong(picture, read, spec, guard);
  const grain = grainOf(picture, guard);
  const stands = Float32Array.from(guard, (v) => (v ? 1 : 0));
  const before = blur(stands, picture.width, picture.height, EDGE);
  const shading = shadingOf(spec.profile, spec.relief);
  const top = fullScale(picture.depth);
  const colours = colourChannels(picture.channels);
  const lighter = 2 ** (spec.stops / 2.2);
  const patch = emptyPatch(drawn, picture);
  // As far above the upper edge as a place is below it.
  const grainAt = (x: number, y: number): number => {
    const [u, v] = placeOn(map, x + 0.5, y + 0.5);
    const up = Math.round(y - 2 * Math.max(0.05, Math.min(1, v)) * high) - read.y;
    const own = Math.max(0, Math.min(picture.height - 1, up)) * picture.width + x - read.x;
    return u >= 0 && u <= 1 && !guard[own] ? grain[own] : 0;
  };
  for (let y = drawn.y; y < drawn.y + drawn.height; y++)
    for (let x = drawn.x; x < drawn.x + drawn.width; x++) {
      const { share, light, shade } = sampled(map, shading, DARKEST * spec.shadow, x, y);
      const from = (y - read.y) * picture.width + x - read.x;
      if ((!share && shade < 0.004) || guard[from]) continue;
      const o = ((y - drawn.y) * drawn.width + x - drawn.x) * patch.channels;
      const grains = share ? grainAt(x, y) : 0;
      for (let c = 0; c < colours; c++) {
        const own = picture.data[from * picture.channels + c];
        const strip = tones[c][x - read.x] * lighter * light + grains;
        const made = share * strip + (1 - share) * own * (1 - shade);
        const value = (1 - before[from]) * made + before[from] * own;
        patch.data[o + c] = Math.round(Math.min(top, Math.max(0, value)));
      }
      patch.data[o + colours] = top;
    }
  const words = `A strip ${Math.round(high)} px high, lit ${sideInWords(tones)}, with the tone and grain of what is above it.`;
  return { patch, reason: spec.guard.length ? `${words} The subject stands before it.` : words };
}

/** Strip: a moulding between backdrop and floor, shaded by its profile, behind what is guarded. */
export const strip: RepairMethod<StripSpec> = {
  method: 'strip',
  shift: (spec, dx, dy) => ({
    ...spec,
    corners: spec.corners.map(([x, y]): Point => [x + dx, y + dy]) as StripSpec['corners'],
    guard: shiftShapes(spec.guard, dx, dy),
  }),
  readBox: (spec, width, height) => boxesOf(spec, width, height).read,
  render,
};
