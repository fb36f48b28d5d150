import { distanceTransform } from '../../mask/distance.ts';
import { boundsOf } from '../../mask/mask.ts';
import { colourChannels, crop, cropPlane, fullScale, growWithin, type Raster } from '../../raster/raster.ts';

import { toFloat4 } from '../../raster/planes.ts';
import { matchGrain } from './grain.ts';
import { solvePoissonChannels } from '../poisson.ts';
import { donorPlanes, type DonorPlanes } from './donors.ts';
import { NoDonorsInReach } from './no-donors.ts';
import { searchDonors, type Labels } from './search.ts';
import { halve, type SearchLevel } from './search-levels.ts';
import { PATCH_RADIUS, type FillSettings, type Tone } from './settings.ts';

/** Largest tone correction of a donor, on the 8-bit scale; small where lines matter, which blending would smear. */
const MOST_TONE = { near: 40, far: 40, textured: 40, lines: 24 };

/** Grain below this share of the surroundings' is restored, by at most the factor given. */
const LEAST_GRAIN = 0.84;
const MOST_RESTORED = 1.8;

/** A region with a wide cover. */
export interface WideRegion {
  picture: Raster;
  /** 1 where pixels are to be found */
  cover: Uint8Array;
  /** 1 where pixels may be taken from; must be 0 on the cover */
  allowed: Uint8Array;
}

/** Colours on the 8-bit scale with a texture measure in the fourth lane, as the search compares them. */
function searchImage(picture: Raster, known: (i: number) => boolean): Uint8Array {
  const { width, height, channels, data } = picture;
  const colours = colourChannels(channels);
  const shift = picture.depth === 16 ? 8 : 0;
  const n = width * height;
  const out = new Uint8Array(n * 4);
  for (let i = 0; i < n; i++) {
    for (let c = 0; c < 3; c++) out[i * 4 + c] = data[i * channels + (colours === 3 ? c : 0)] >> shift;
  }
  // Texture: mean absolute slope over 5 × 5 px, summed by columns and rows so that each pixel is read once.
  const slope = new Float32Array(n);
  const count = new Float32Array(n);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (x + 1 >= width || y + 1 >= height || !known(i) || !known(i + 1) || !known(i + width)) continue;
      slope[i] = Math.abs(out[i * 4 + 1] - out[i * 4 + 5]) + Math.abs(out[i * 4 + 1] - out[(i + width) * 4 + 1]);
      count[i] = 1;
    }
  }
  const spread = (values: Float32Array) => boxSum(boxSum(values, width, height, 1, width), height, width, width, 1);
  const sums = spread(slope);
  const counts = spread(count);
  for (let i = 0; i < n; i++) out[i * 4 + 3] = Math.min(255, counts[i] ? (3 * sums[i]) / counts[i] : 0);
  return out;
}

/** Sums over 5 neighbours along one direction: `length` steps of `stride`, on `lines` lines `jump` apart. */
function boxSum(values: Float32Array, length: number, lines: number, stride: number, jump: number): Float32Array {
  const out = new Float32Array(values.length);
  for (let l = 0; l < lines; l++) {
    let sum = 0;
    for (let k = -2; k < length; k++) {
      if (k + 2 < length) sum += values[l * jump + (k + 2) * stride];
      if (k - 3 >= 0) sum -= values[l * jump + (k - 3) * stride];
      if (k >= 0) out[l * jump + k * stride] = sum;
    }
  }
  return out;
}

/**
 * Fills a wide cover from donors and returns the completed region (a copy; uncovered pixels as they were).
 * @throws NoDonorsInReach when the allowed area holds no whole patch.
 */
export function fillWide(
  region: WideRegion,
  settings: FillSettings & { style: 'near' | 'far' | 'lines' | 'textured' },
  onProgress?: (done: number) => void,
): Raster {
  const { picture, cover, allowed } = region;
  const { width, height } = picture;
  const planes = donorPlanes(picture, allowed, settings);
  const bounds = growWithin(boundsOf({ x: 0, y: 0, width, height, data: cover }), 1, width, height);
  const depth = distanceTransform(cover, width, height, 'outside', bounds).reduce((a, b) => Math.max(a, b), 0);
  let radius = Math.min(PATCH_RADIUS[settings.style], Math.floor((Math.min(width, height) - 1) / 2));
  if (radius < 2) throw new NoDonorsInReach();
  const levels: SearchLevel[] = [
    {
      width,
      height,
      target: searchImage(picture, (i) => cover[i] === 0),
      cover: cover.slice(),
      donors: {
        width: planes.raster.width,
        height: planes.raster.height,
        pixels: searchImage(planes.raster, (i) => planes.allowed[i] !== 0),
        allowed: planes.allowed,
      },
    },
  ];
  const wanted = Math.max(0, Math.ceil(Math.log2(depth / (radius * 0.8))));
  for (let l = 0; l < wanted; l++) {
    const next = halve(levels[l]);
    if (Math.min(next.width, next.height) < 4 * radius + 2) break;
    levels.push(next);
  }
  const search = (r: number) =>
    searchDonors(levels, {
      seed: settings.seed,
      radius: r,
      rounds: [10, 4],
      falloff: 1.15,
      onProgress: (f) => onProgress?.(0.9 * f),
    });
  let labels: Labels;
  try {
    labels = search(radius);
  } catch (error) {
    if (radius === 2) throw error;
    radius = 2;
    labels = search(radius);
  }
  const out = assemble(picture, cover, planes, labels, settings.tone, MOST_TONE[settings.style]);
  if (settings.tone !== 'none') restoreGrain(out, cover);
  onProgress?.(1);
  return out;
}

/** Gives back what joining pieces has taken from the grain, where it has. */
function restoreGrain(picture: Raster, cover: Uint8Array): void {
  const { width, height, channels } = picture;
  const colours = colourChannels(channels);
  const box = growWithin(boundsOf({ x: 0, y: 0, width, height, data: cover }), 32, width, height);
  const image = toFloat4(crop(picture, box));
  const local = cropPlane(cover, width, box);
  matchGrain(image, box.width, box.height, local, colours, { aim: LEAST_GRAIN, cap: MOST_RESTORED });
  const scale = fullScale(picture.depth) / 255;
  for (let i = 0; i < local.length; i++) {
    if (!local[i]) continue;
    const x = i % box.width;
    const o = ((box.y + (i - x) / box.width) * width + box.x + x) * channels;
    for (let c = 0; c < colours; c++) picture.data[o + c] = Math.round(image[i * 4 + c] * scale);
  }
}

/**
 * Copies the labelled donor pixels and joins them: gradients inside a copied piece are the donor's, across a seam the
 * mean of both, and the rim follows the surroundings as far as `tone` says.
 * Source: Pérez, Gangnet & Blake, "Poisson Image Editing", 2003.
 */
function assemble(
  picture: Raster,
  cover: Uint8Array,
  planes: DonorPlanes,
  labels: Labels,
  tone: Tone,
  mostTone: number,
): Raster {
  const donors = planes.raster;
  const { width, height, channels, depth } = picture;
  const colours = colourChannels(channels);
  const scale = 255 / fullScale(depth);
  const place = new Int32Array(width * height).fill(-1);
  labels.pixels.forEach((p, n) => {
    if (labels.donors[2 * n] >= 0) place[p] = labels.donors[2 * n + 1] * donors.width + labels.donors[2 * n];
  });
  const out: Raster = { ...picture, data: picture.data.slice() };
  for (const p of labels.pixels) {
    if (place[p] < 0) continue;
    for (let c = 0; c < colours; c++) out.data[p * channels + c] = donors.data[place[p] * channels + c];
  }
  const unknown = new Uint8Array(width * height);
  for (const p of labels.pixels) if (place[p] >= 0 || cover[p]) unknown[p] = 1;
  /** Step from a donor pixel to its neighbour, where that neighbour may be looked at. */
  const slope = (x: number, y: number, dx: number, dy: number, at: (i: number) => number): number | undefined => {
    if (x + dx < 0 || y + dy < 0 || x + dx >= donors.width || y + dy >= donors.height) return undefined;
    const i = y * donors.width + x;
    const j = i + dx + dy * donors.width;
    return planes.allowed[j] ? at(j) - at(i) : undefined;
  };
  const values: Float32Array[] = [];
  const sources: Float32Array[] = [];
  for (let c = 0; c < colours; c++) {
    const value = new Float32Array(width * height);
    for (let i = 0; i < value.length; i++) value[i] = out.data[i * channels + c] * scale;
    const rhs = new Float32Array(width * height);
    const at = (i: number) => donors.data[i * channels + c] * scale;
    for (const p of labels.pixels) {
      const s = place[p];
      if (s < 0) continue;
      const px = p % width;
      const py = (p - px) / width;
      const sx = s % donors.width;
      const sy = (s - sx) / donors.width;
      let sum = 0;
      for (let k = 0; k < 4; k++) {
        const dx = k === 0 ? 1 : k === 1 ? -1 : 0;
        const dy = k === 2 ? 1 : k === 3 ? -1 : 0;
        if (px + dx < 0 || py + dy < 0 || px + dx >= width || py + dy >= height) continue;
        const q = p + dx + dy * width;
        const own = slope(sx, sy, dx, dy, at);
        const t = unknown[q] ? place[q] : -1;
        const seam = t >= 0 && t !== s + dx + dy * donors.width;
        const other = seam ? slope(t % donors.width, Math.floor(t / donors.width), -dx, -dy, at) : undefined;
        if (own !== undefined && other !== undefined) sum += (own - other) / 2;
        else sum += own ?? (other === undefined ? 0 : -other);
      }
      rhs[p] = -sum;
    }
    values.push(value);
    sources.push(rhs);
  }
  if (tone !== 'none') {
    const plain = values.map((v) => v.slice());
    solvePoissonChannels(values, unknown, width, height, sources, { tolerance: 0.1 });
    const share = tone === 'strong' ? 1 : 0.5;
    for (let c = 0; c < colours; c++) {
      for (const p of labels.pixels) {
        // A correction beyond a step in tone would smear one side of an edge over the other: it levels off.
        const step = values[c][p] - plain[c][p];
        values[c][p] = plain[c][p] + share * mostTone * Math.tanh(step / mostTone);
      }
    }
    const top = fullScale(depth);
    for (const p of labels.pixels) {
      for (let c = 0; c < colours; c++) {
        out.data[p * channels + c] = Math.round(Math.min(top, Math.max(0, values[c][p] / scale)));
      }
    }
  }
  return out;
}
