import { boundsOf, spread, type Mask } from '../../mask/mask.ts';
import { acrossOf, boundsOfShapes, coverBounds, rasterise, shiftShapes } from '../../mask/shapes.ts';
import { colourChannels, crop, fullScale, isEmpty, union, type Box } from '../../raster/raster.ts';
import type { Beneath, Piece, RepairMethod } from '../method.ts';
import { withoutUnknown } from '../../raster/pull-push.ts';
import { compositeOver, emptyPatch, type Patch, type PatchLayer } from '../../raster/patch.ts';
import type { FillSpec } from '../spec.ts';
import { guidesOf } from './grounds/guides.ts';
import { layoutSize, lookedAt, type FillRegion } from './fill-region.ts';
import { inLight } from './light.ts';
import { outwardOf } from './outward.ts';
import { fillRegion, predictShare } from './region.ts';
import { sketchFill } from './sketch.ts';
import { reachOf, type FillStyle } from './settings.ts';
import { sparedIn, unknownIn } from './unknown.ts';

/** Share of a picture's height from which on what is added beside it is taken to be a side of it. */
const SIDE = 0.9;

/** Whether a cover is a side that was added to a picture, as high as it: what stands on the ground there goes on beside itself. */
const isAside = ({ light, cover }: FillSpec, { x, width: across, height: high }: Box, width: number, height: number) =>
  Boolean(light) && cover.length === 1 && high >= SIDE * height && (x <= 0 || x + across >= width);

/** The widest a fill may look; wide enough for every style, since `auto` is settled only when pixels are seen. */
function reachBox(spec: FillSpec, width: number, height: number): Box {
  const cover = coverBounds(spec.cover, spec.margin, spec.feather, width, height);
  if (isEmpty(cover)) return cover;
  const style: FillStyle = spec.style === 'auto' ? 'near' : spec.style;
  // Thin covers may have deep places, which are laid out.
  const laidOut = reachOf('first', layoutSize(cover));
  const reach = Math.max(reachOf(style, Math.max(cover.width, cover.height)), laidOut);
  let box = lookedAt(cover, reach, width, height, isAside(spec, cover, width, height));
  // A donor area of the user's own is always within reach.
  if (spec.donorArea.length) {
    const area = boundsOfShapes(spec.donorArea, width, height);
    if (!isEmpty(area)) {
      const x = Math.min(box.x, area.x);
      const y = Math.min(box.y, area.y);
      box = {
        x,
        y,
        width: Math.max(box.x + box.width, area.x + area.width) - x,
        height: Math.max(box.y + box.height, area.y + area.height) - y,
      };
    }
  }
  return box;
}

/** A spec's cover and what it may take, over the box that it reads. */
function regionOf(
  { width, height, read, gap }: Beneath,
  spec: FillSpec,
): { frame: Box; region: FillRegion; cover: Mask } {
  const frame = reachBox(spec, width, height);
  if (isEmpty(frame)) throw new Error('The cover lies outside the picture. Mark the fault again.');
  const picture = crop(read(frame), { x: 0, y: 0, width: frame.width, height: frame.height });
  const cover = spread(rasterise(spec.cover, frame), frame, spec.margin, spec.feather);
  const allowed = new Uint8Array(frame.width * frame.height).fill(1);
  if (spec.donorArea.length) {
    const area = rasterise(spec.donorArea, frame);
    for (let i = 0; i < allowed.length; i++) if (!area.data[i]) allowed[i] = 0;
  }
  if (spec.barred.length) {
    const area = rasterise(spec.barred, frame);
    for (let i = 0; i < allowed.length; i++) if (area.data[i]) allowed[i] = 0;
  }
  const unknown = unknownIn(spec, frame, gap?.(frame));
  // Whatever stands there, not a bit of what comes out may depend on it.
  const sound = unknown ? withoutUnknown(picture, unknown) : picture;
  return {
    frame,
    region: {
      picture: sound,
      cover: cover.data,
      unknown,
      allowed,
      chosen: spec.donorArea.length > 0,
      guides: guidesOf(spec, frame),
    },
    cover,
  };
}

/** Megapixels of a cover's box from which on it is worth while to divide its prediction among threads. */
const DIVIDED = 1;
/** Widest shape, px, of a cover that is mostly predicted. */
const SLIM = 60;

/** Fill: replaces the cover with what the method finds or predicts by itself. */
export const fill: RepairMethod<FillSpec> = {
  method: 'fill',
  version: 13,
  shift(spec, dx, dy) {
    const shapes = ['cover', 'donorArea', 'barred', 'avoid', 'edges', 'grounds'] as const;
    const moved = { ...spec };
    for (const key of shapes) if (spec[key]) moved[key] = shiftShapes(spec[key], dx, dy);
    return moved;
  },
  readBox: reachBox,
  sketch: sketchFill,
  divides(spec, width, height) {
    // Where light is taken off first, nothing can be predicted before.
    if (spec.light) return false;
    const box = coverBounds(spec.cover, spec.margin, spec.feather, width, height);
    return box.width * box.height >= DIVIDED * 1e6 && spec.cover.every((s) => acrossOf(s) <= SLIM);
  },
  ahead(beneath, spec, share, onProgress) {
    const { frame, region } = regionOf(beneath, spec);
    return predictShare(region, spec, share, onProgress).map((p) => ({ ...p, x: p.x + frame.x, y: p.y + frame.y }));
  },
  render(beneath, spec, onProgress, pieces) {
    return spec.light && spec.cover.length > 1 && spec.cover.every((shape) => shape.op === 'add')
      ? renderApart(beneath, spec, onProgress)
      : renderOne(beneath, spec, onProgress, pieces);
  },
};

/** Fills parts one after the other, each in the light around it: what is on one side of a picture says little of the other. */
function renderApart(beneath: Beneath, spec: FillSpec, onProgress?: (done: number) => void) {
  const { width, height, read } = beneath;
  const parts = spec.cover;
  const done: PatchLayer[] = [];
  const reasons: string[] = [];
  parts.forEach((part, n) => {
    const own = { ...spec, cover: [part], avoid: [...spec.avoid, ...parts.slice(n + 1)] };
    if (isEmpty(coverBounds(own.cover, spec.margin, spec.feather, width, height))) return;
    const below: Beneath = {
      ...beneath,
      read(box) {
        const raster = read(box);
        for (const { patch } of done) compositeOver(raster, box, patch, 1);
        return raster;
      },
    };
    const { patch, reason } = renderOne(below, own, (f) => onProgress?.((n + f) / parts.length));
    done.push({ patch, strength: 1 });
    reasons.push(reason);
  });
  if (!done.length) throw new Error('The cover lies outside the picture. Mark the fault again.');
  const bounds = done.reduce((box, { patch }) => union(box, patch), done[0].patch as Box);
  const whole = emptyPatch(bounds, done[0].patch);
  for (const { patch } of done) pasteInto(patch, whole);
  return { patch: whole, reason: [...new Set(reasons)].join(' ') };
}

/** Lays the covered pixels of a patch into a larger one. */
function pasteInto(patch: Patch, whole: Patch): void {
  const { channels } = patch;
  for (let y = 0; y < patch.height; y++)
    for (let x = 0; x < patch.width; x++) {
      const from = (y * patch.width + x) * channels;
      if (!patch.data[from + channels - 1]) continue;
      const to = ((patch.y - whole.y + y) * whole.width + patch.x - whole.x + x) * channels;
      for (let c = 0; c < channels; c++) whole.data[to + c] = patch.data[from + c];
    }
}

/** Fills a cover as a whole. */
function renderOne(
  beneath: Beneath,
  spec: FillSpec,
  onProgress?: (done: number) => void,
  pieces?: readonly Piece[],
): { patch: Patch; reason: string } {
  const { frame, region, cover } = regionOf(beneath, spec);
  const { picture } = region;
  const bounds = boundsOf(cover);
  if (isEmpty(bounds)) throw new Error('The cover is empty. Mark the fault again.');
  const thin = pieces?.map((p) => ({ ...p, x: p.x - frame.x, y: p.y - frame.y }));
  const { width, height } = beneath;
  const level = isAside(spec, { ...bounds, x: bounds.x + frame.x }, width, height);
  const own = { ...bounds, x: bounds.x - frame.x, y: bounds.y - frame.y };
  const barred = spec.barred.length ? rasterise(spec.barred, frame).data : null;
  const outward = spec.light ? outwardOf({ ...region, level }, spec.style, barred, own) : null;
  const result = fillRegion(outward?.region ?? region, spec, onProgress, thin);
  outward?.draw(result.picture, cover.data);
  const light = outward?.light;
  const patch = emptyPatch(bounds, picture);
  const colours = colourChannels(picture.channels);
  const unit = fullScale(picture.depth) / 255;
  const spared = sparedIn(spec, cover);
  for (let y = 0; y < bounds.height; y++) {
    for (let x = 0; x < bounds.width; x++) {
      const i = (bounds.y - frame.y + y) * frame.width + bounds.x - frame.x + x;
      if (!cover.data[i] || spared?.[i]) continue;
      const o = (y * bounds.width + x) * patch.channels;
      for (let c = 0; c < colours; c++) {
        const value = result.picture.data[i * picture.channels + c];
        patch.data[o + c] = light
          ? inLight(value, light.gain(i % frame.width, Math.floor(i / frame.width), c), picture.depth)
          : value;
      }
      patch.data[o + colours] = cover.data[i] * unit;
    }
  }
  return { patch, reason: `${result.reason}${outward?.words ?? ''}` };
}
