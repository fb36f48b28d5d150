import { boundsOfStrokes, shiftStrokes, visitStroke } from '../../mask/strokes.ts';
import { blur } from '../../raster/planes.ts';
import { colourChannels, fullScale, growWithin, isEmpty, type Box, type Raster } from '../../raster/raster.ts';
import { lumaPlane, median } from '../../raster/luma.ts';
import { GRAIN_SIGMA } from '../fill/settings.ts';
import type { RepairMethod } from '../method.ts';
import type { ShadeSpec } from '../spec.ts';
import { patchOf } from './put.ts';

/** px around a soft area from which its grain is measured. */
const AROUND = 32;

/** How much of a tone range a luma of 0…1 belongs to. Common practice: the ranges overlap and add up to about one. */
export function rangeWeight(range: ShadeSpec['range'], luma: number): number {
  if (range === 'shadows') return (1 - luma) * (1 - luma);
  if (range === 'highlights') return luma * luma;
  if (range === 'mid-tones') return 2 * luma * (1 - luma) * 2;
  return 1;
}

/** Exposure of `stops` doublings on a stored value of 0…1, taken as light raised to 1 / 2.2 (common practice). */
export const exposed = (value: number, stops: number): number => value * Math.pow(2, stops / 2.2);

/** A number of −1…1 from a place and a seed, the same on every machine. */
function hashed(x: number, y: number, seed: number): number {
  let h = Math.imul(x ^ Math.imul(y, 0x9e3779b1) ^ seed, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  h ^= h >>> 16;
  return (h >>> 0) / 2147483648 - 1;
}

/** Roughly Gaussian noise of deviation 1 over a box: the sum of four even ones. */
function noise(box: Box, seed: number): Float32Array {
  const out = new Float32Array(box.width * box.height);
  for (let y = 0, i = 0; y < box.height; y++) {
    for (let x = 0; x < box.width; x++, i++) {
      let s = 0;
      for (let k = 0; k < 4; k++) s += hashed(box.x + x, box.y + y, seed + k * 7919);
      out[i] = s * 0.866;
    }
  }
  return out;
}

/** What is measured of grain: its deviation in levels of 255, and how alike neighbours are (lag-one correlation). */
export interface Grain {
  deviation: number;
  likeness: number;
}

/** Measures grain where `counts`: fine detail without what stands out of it, such as edges. */
export function measureGrain(luma: Float32Array, width: number, height: number, counts: (i: number) => boolean): Grain {
  const soft = blur(luma, width, height, GRAIN_SIGMA);
  const detail = luma.map((v, i) => v - soft[i]);
  const sizes: number[] = [];
  // A part of the pixels tells the usual size as well as all of them.
  const step = Math.max(1, Math.floor(detail.length / 60_000));
  for (let i = 0; i < detail.length; i += step) if (counts(i)) sizes.push(Math.abs(detail[i]));
  if (sizes.length < 16) return { deviation: 0, likeness: 0 };
  const most = 3 * 1.4826 * median(sizes);
  let [n, square, pair, pairs] = [0, 0, 0, 0];
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (!counts(i) || Math.abs(detail[i]) > most) continue;
      n++;
      square += detail[i] * detail[i];
      if (x + 1 < width && counts(i + 1) && Math.abs(detail[i + 1]) <= most) {
        pair += detail[i] * detail[i + 1];
        pairs++;
      }
    }
  }
  const variance = n ? square / n : 0;
  return { deviation: Math.sqrt(variance), likeness: pairs && variance > 0 ? pair / pairs / variance : 0 };
}

/** Side of the sample on which the likeness of made noise is measured, px. */
const SAMPLE = 160;

/** Noise of a wanted grain over a box: blurred as far as neighbours are alike, and set to the deviation after the same high pass. */
function grainOf(box: Box, wanted: Grain, seed: number): Float32Array {
  const sample: Box = { x: 0, y: 0, width: SAMPLE, height: SAMPLE };
  const white = noise(sample, seed);
  let best = { away: Infinity, sigma: 0, deviation: 1 };
  for (const sigma of [0, 0.45, 0.6, 0.8, 1, 1.3]) {
    const plane = sigma ? blur(white, SAMPLE, SAMPLE, sigma) : white;
    const made = measureGrain(plane, SAMPLE, SAMPLE, () => true);
    const away = Math.abs(made.likeness - wanted.likeness);
    if (away < best.away) best = { away, sigma, deviation: made.deviation };
  }
  const gain = best.deviation > 0 ? wanted.deviation / best.deviation : 0;
  const whole = noise(box, seed);
  const plane = best.sigma ? blur(whole, box.width, box.height, best.sigma) : whole;
  for (let i = 0; i < plane.length; i++) plane[i] *= gain;
  return plane;
}

/** Passes over each pixel: the coverages of all strokes added up. */
function passes(spec: ShadeSpec, box: Box): Float32Array {
  const out = new Float32Array(box.width * box.height);
  for (const stroke of spec.strokes) {
    visitStroke(stroke, box, (i, amount) => {
      out[i] += amount;
    });
  }
  return out;
}

/** Shade: lightens or darkens by tone range in passes, or restores grain. */
export const shade: RepairMethod<ShadeSpec> = {
  method: 'shade',
  shift: (spec, dx, dy) => ({ ...spec, strokes: shiftStrokes(spec.strokes, dx, dy) }),
  readBox(spec, width, height) {
    const box = boundsOfStrokes(spec.strokes, width, height);
    return isEmpty(box) || spec.effect === 'tone' ? box : growWithin(box, AROUND, width, height);
  },
  render(beneath, spec) {
    const box = boundsOfStrokes(spec.strokes, beneath.width, beneath.height);
    if (isEmpty(box)) throw new Error('The strokes lie outside the picture. Paint on the picture.');
    return spec.effect === 'grain'
      ? restoreGrain(beneath.read, beneath, spec, box)
      : shadeTone(beneath.read(box), spec, box);
  },
};

function shadeTone(picture: Raster, spec: ShadeSpec, box: Box) {
  const colours = colourChannels(picture.channels);
  const top = fullScale(picture.depth);
  const luma = lumaPlane(picture);
  const amount = passes(spec, box);
  const values = new Float32Array(amount.length * colours);
  const coverage = new Float32Array(amount.length);
  for (let i = 0; i < amount.length; i++) {
    if (amount[i] <= 0) continue;
    coverage[i] = 1;
    const stops = spec.stops * amount[i] * rangeWeight(spec.range, luma[i] / 255);
    for (let c = 0; c < colours; c++)
      values[i * colours + c] = exposed(picture.data[i * picture.channels + c] / top, stops) * top;
  }
  const valid = new Uint8Array(amount.length).fill(1);
  const where = spec.range === 'all' ? '' : ` in the ${spec.range}`;
  return {
    patch: patchOf(box, picture, { values, colours, valid }, coverage),
    reason: `${spec.stops < 0 ? 'Darkened' : 'Lightened'}${where} by ${Math.abs(Math.round(spec.stops * 100) / 100)} stops a pass.`,
  };
}

function restoreGrain(read: (box: Box) => Raster, size: { width: number; height: number }, spec: ShadeSpec, box: Box) {
  const frame = growWithin(box, AROUND, size.width, size.height);
  const picture = read(frame);
  const colours = colourChannels(picture.channels);
  const top = fullScale(picture.depth);
  const luma = lumaPlane(picture);
  const amount = passes(spec, frame);
  const around = measureGrain(luma, frame.width, frame.height, (i) => amount[i] === 0);
  const inside = measureGrain(luma, frame.width, frame.height, (i) => amount[i] > 0.5);
  const missing = Math.sqrt(Math.max(0, around.deviation ** 2 - inside.deviation ** 2));
  const grain = grainOf(frame, { deviation: missing, likeness: around.likeness }, spec.seed);
  const values = new Float32Array(amount.length * colours);
  const coverage = new Float32Array(amount.length);
  for (let i = 0; i < amount.length; i++) {
    if (amount[i] <= 0) continue;
    coverage[i] = Math.min(1, amount[i]);
    for (let c = 0; c < colours; c++)
      values[i * colours + c] = picture.data[i * picture.channels + c] + (grain[i] * top) / 255;
  }
  const valid = new Uint8Array(amount.length).fill(1);
  const levels = (v: number) => v.toFixed(1);
  return {
    patch: patchOf(frame, picture, { values, colours, valid }, coverage),
    reason: `Grain here ${levels(inside.deviation)}, around ${levels(around.deviation)} levels: ${levels(missing)} added.`,
  };
}
