import { boundsOf, spread, type Mask } from '../../mask/mask.ts';
import { coverBounds, rasterise } from '../../mask/shapes.ts';
import {
  colourChannels,
  createRaster,
  fullScale,
  growWithin,
  isEmpty,
  type Box,
  type Raster,
} from '../../raster/raster.ts';
import type { Beneath } from '../method.ts';
import { emptyPatch, type Patch } from '../../raster/patch.ts';
import type { FillSpec } from '../spec.ts';
import { guidesFrom, guidesOf } from './grounds/guides.ts';
import { coveredIn } from './layout/levels.ts';
import { layoutSize } from './fill-region.ts';
import { unknownIn } from './unknown.ts';
import { fillRegion } from './region.ts';
import { isLaidOut, reachOf } from './settings.ts';

/** Size of a sketched cover, px (square root of its area). */
const SKETCHED_ACROSS = 32;
/** Most px that are read across each square that is reduced to one. */
const READ_ACROSS = 8;
/** Covers below so many px across are filled as fast as they would be sketched. */
const WORTH = 150;

/**
 * How a wide fill will about look, small and enlarged, in a time that hardly depends on its size.
 * @returns null where the fill itself is quick, or is not laid out
 * @throws Error with a message for the user, as the fill does
 */
export function sketchFill({ width, height, read, gap }: Beneath, spec: FillSpec): Patch | null {
  if (spec.style === 'auto' || !isLaidOut(spec.style)) return null;
  const around = coverBounds(spec.cover, spec.margin, spec.feather, width, height);
  if (isEmpty(around)) return null;
  const cover = spread(rasterise(spec.cover, around), around, spec.margin, spec.feather);
  const bounds = boundsOf(cover);
  const marked = cover.data.map((v) => (v ? 1 : 0));
  const size = Math.sqrt(coveredIn(marked));
  if (isEmpty(bounds) || size < WORTH) return null;
  const by = Math.ceil(size / SKETCHED_ACROSS);
  const frame = growWithin(bounds, reachOf('first', layoutSize(bounds)), width, height);
  const w = Math.floor(frame.width / by);
  const h = Math.floor(frame.height / by);
  if (Math.min(w, h) < 24) return null;
  const picture = reduced(read(frame), by, w, h);
  const small = new Uint8Array(w * h);
  const allowed = new Uint8Array(w * h).fill(1);
  const reduce = (plane: Uint8Array, box: Box, out: Uint8Array, value: number) => {
    for (let y = 0, i = 0; y < box.height; y++) {
      for (let x = 0; x < box.width; x++, i++) {
        if (!plane[i]) continue;
        const u = Math.floor((box.x - frame.x + x) / by);
        const v = Math.floor((box.y - frame.y + y) / by);
        if (u >= 0 && v >= 0 && u < w && v < h) out[v * w + u] = value;
      }
    }
  };
  reduce(marked, around, small, 1);
  const nothing = unknownIn(spec, frame, gap?.(frame));
  const unknown = nothing && new Uint8Array(w * h);
  if (nothing && unknown) reduce(nothing, frame, unknown, 1);
  if (spec.donorArea.length) {
    allowed.fill(0);
    reduce(rasterise(spec.donorArea, frame).data, frame, allowed, 1);
  }
  if (spec.barred.length) reduce(rasterise(spec.barred, frame).data, frame, allowed, 0);
  const guides = guidesOf(spec, frame);
  const own = guides && guidesFrom(guides, 0, 0, by);
  const chosen = spec.donorArea.length > 0;
  const region = { picture, cover: small, unknown, allowed, chosen, guides: own, quick: true };
  const { picture: filled } = fillRegion(region, spec);
  return enlarged(filled, by, frame, cover, bounds);
}

/** A picture reduced by a whole number: means of squares of so many px, of large ones over every so many. */
function reduced(picture: Raster, by: number, width: number, height: number): Raster {
  const { channels, data } = picture;
  const colours = colourChannels(channels);
  const out = createRaster(width, height, colours, picture.depth);
  const sums = new Float64Array(width * colours);
  const stride = Math.max(1, Math.floor(by / READ_ACROSS));
  const read = Math.ceil(by / stride) ** 2;
  for (let y = 0; y < height; y++) {
    sums.fill(0);
    for (let v = y * by; v < (y + 1) * by; v += stride) {
      for (let x = 0, i = 0; x < width; x++, i += colours) {
        const end = (v * picture.width + (x + 1) * by) * channels;
        for (let from = end - by * channels; from < end; from += stride * channels) {
          sums[i] += data[from];
          if (colours === 1) continue;
          sums[i + 1] += data[from + 1];
          sums[i + 2] += data[from + 2];
        }
      }
    }
    for (let i = 0; i < sums.length; i++) out.data[y * sums.length + i] = Math.round(sums[i] / read);
  }
  return out;
}

/** The covered part of a reduced picture, at full size again. */
function enlarged(small: Raster, by: number, frame: Box, cover: Mask, bounds: Box): Patch {
  const patch = emptyPatch(bounds, small);
  const { data } = small;
  const colours = patch.channels - 1;
  const unit = fullScale(small.depth) / 255;
  const row = new Float32Array(small.width * colours);
  // Where each column lies in the reduced picture: the place to its left, and how far it is from there.
  const lefts = new Int32Array(bounds.width);
  const shares = new Float32Array(bounds.width);
  for (let x = 0; x < bounds.width; x++) {
    const u = Math.min(small.width - 1, Math.max(0, (bounds.x + x - frame.x + 0.5) / by - 0.5));
    lefts[x] = Math.min(Math.max(0, small.width - 2), Math.floor(u));
    shares[x] = u - lefts[x];
  }
  const step = small.width > 1 ? colours : 0;
  for (let y = 0, o = 0; y < bounds.height; y++) {
    const v = Math.min(small.height - 1, Math.max(0, (bounds.y + y - frame.y + 0.5) / by - 0.5));
    const upper = Math.floor(v) * row.length;
    const lower = Math.min(small.height - 1, Math.floor(v) + 1) * row.length;
    for (let i = 0; i < row.length; i++) row[i] = data[upper + i] + (v % 1) * (data[lower + i] - data[upper + i]);
    const covers = (bounds.y + y - cover.y) * cover.width + bounds.x - cover.x;
    for (let x = 0; x < bounds.width; x++, o += patch.channels) {
      const alpha = cover.data[covers + x];
      if (!alpha) continue;
      const at = lefts[x] * colours;
      for (let c = 0; c < colours; c++)
        patch.data[o + c] = Math.round(row[at + c] + shares[x] * (row[at + step + c] - row[at + c]));
      patch.data[o + colours] = alpha * unit;
    }
  }
  return patch;
}
