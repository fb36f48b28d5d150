import { fillDeep, NoDonors } from './fill-deep.ts';
import { layoutSize, lookedAt, type FillRegion } from './fill-region.ts';
import { distanceTransform } from '../../mask/distance.ts';
import { componentBoxes } from '../../mask/components.ts';
import { boundsOf } from '../../mask/mask.ts';
import { crop, cropPlane, growWithin, isEmpty, paste, type Box, type Raster } from '../../raster/raster.ts';
import {
  CROSSING_DEPTH,
  isLaidOut,
  isPredicted,
  DEFAULT_FILL,
  reachOf,
  stylesFor,
  THIN_DEPTH,
  type FillSettings,
  type FillStyle,
} from './settings.ts';
import { guidesFrom } from './grounds/guides.ts';
import { reasonFor } from './reason.ts';
import { deepParts } from './deep.ts';
import { stretchesOf } from './stretches.ts';
import type { Piece, Share } from '../method.ts';
import { layPieces, predictThin } from './thin.ts';
import type { LaidOut } from './layout/fill-by-layout.ts';

/** The completed region and how it was done. */
export interface FillResult {
  picture: Raster;
  style: FillStyle;
  /** deepest place of the cover in px */
  depth: number;
  /** covered pixels that were predicted from their neighbours, and found among donors */
  predicted: number;
  searched: number;
  /** one sentence for the person who has to judge it */
  reason: string;
}

/**
 * Fills every covered pixel of a region. Places up to {@link THIN_DEPTH} px deep are predicted from the pixels beside
 * them, since donor detail in a thin cover is no better than noise; deeper places are completed from donors.
 * @param pieces its thin places, from {@link predictShare}, when threads shared that work
 * @throws Error with a message for the user when nothing is left to fill from.
 */
export function fillRegion(
  region: FillRegion,
  settings: FillSettings = DEFAULT_FILL,
  onProgress?: (done: number) => void,
  pieces?: readonly Piece[],
): FillResult {
  const { picture, cover } = region;
  const { width, height } = picture;
  // Only in the frame, or a small cover in a large picture would cost as much as the picture is large.
  if (!cover.some((v, i) => !v && !region.unknown?.[i])) {
    throw new Error('The cover leaves nothing to fill from. Make it smaller than the picture.');
  }
  const within = workFrame(cover, width, height, region.level);
  const output: Raster = { ...picture, data: picture.data.slice() };
  if (isEmpty(within))
    return { picture: output, style: 'smooth', depth: 0, predicted: 0, searched: 0, reason: 'Nothing is covered.' };
  if (within.width < width || within.height < height) {
    try {
      const own = pieces?.map((p) => ({ ...p, x: p.x - within.x, y: p.y - within.y }));
      const result = fillPart(cropRegion(region, within), settings, onProgress, own);
      paste(result.picture, output, within);
      return { ...result, picture: output };
    } catch (error) {
      if (!(error instanceof NoDonors)) throw error;
    }
  }
  const whole = within.width === width && within.height === height;
  return fillPart({ ...region, cover: marked(cover) }, settings, onProgress, whole ? pieces : undefined);
}

function marked(plane: Uint8Array): Uint8Array {
  const out = new Uint8Array(plane.length);
  for (let i = 0; i < out.length; i++) if (plane[i]) out[i] = 1;
  return out;
}

function cropRegion({ picture, cover, unknown, allowed, guides, ...how }: FillRegion, box: Box): FillRegion {
  const part = (plane: Uint8Array) => cropPlane(plane, picture.width, box);
  return {
    picture: crop(picture, box),
    cover: marked(part(cover)),
    unknown: unknown && part(unknown),
    allowed: allowed && part(allowed),
    guides: guides && guidesFrom(guides, box.x, box.y),
    ...how,
  };
}

/**
 * One share of the thin places of a region, for {@link fillRegion}: threads divide the blocks, and the result is the same with
 * any number of them.
 */
export function predictShare(
  region: FillRegion,
  settings: FillSettings,
  share: Share,
  onProgress?: (done: number) => void,
): Piece[] {
  const within = workFrame(region.cover, region.picture.width, region.picture.height);
  if (isEmpty(within)) return [];
  const own = cropRegion(region, within);
  const { style, thin, predicted } = divided(own, settings);
  if (!predicted) return [];
  const options = { style, wanted: thin, share };
  return predictThin(own.picture, withUnknown(own), options, onProgress).map((p) => ({
    ...p,
    x: p.x + within.x,
    y: p.y + within.y,
  }));
}

/**
 * The part of a picture that a fill looks at, so that its cost follows the cover and not the picture; empty when
 * nothing is covered.
 */
export function workFrame(cover: Uint8Array, width: number, height: number, level = false): Box {
  const bounds = boundsOf({ x: 0, y: 0, width, height, data: cover });
  if (isEmpty(bounds)) return bounds;
  const size = Math.max(bounds.width, bounds.height);
  const reach = 64 + Math.max(reachOf('far', size), reachOf('first', layoutSize(bounds)));
  const frame = lookedAt(bounds, reach, width, height, level);
  return frame.width * frame.height < 0.7 * width * height ? frame : { x: 0, y: 0, width, height };
}

/** Which places of a region are predicted and which are completed from donors. */
function divided({ picture, cover, guides }: FillRegion, settings: FillSettings) {
  const { width, height } = picture;
  const bounds = growWithin(boundsOf({ x: 0, y: 0, width, height, data: cover }), 1, width, height);
  // What the cover is like is found out in its box alone.
  const own = cropPlane(cover, width, bounds);
  const depths = distanceTransform(own, bounds.width, bounds.height, 'outside');
  let depth = 0;
  for (let i = 0; i < depths.length; i++) if (depths[i] > depth) depth = depths[i];
  const style = settings.style === 'auto' ? stylesFor(depth)[0] : settings.style;
  const deepOwn =
    style === 'textured' || guides
      ? own
      : style === 'smooth' && depth <= THIN_DEPTH
        ? new Uint8Array(own.length)
        : deepParts(
            own,
            depths,
            bounds.width,
            style === 'faithful' || style === 'straight' ? CROSSING_DEPTH : THIN_DEPTH,
          );
  const deep = new Uint8Array(cover.length);
  const thin = new Uint8Array(cover.length);
  let predicted = 0;
  let searched = 0;
  for (let y = 0, i = 0; y < bounds.height; y++) {
    for (let x = 0, to = (bounds.y + y) * width + bounds.x; x < bounds.width; x++, i++, to++) {
      searched += deep[to] = deepOwn[i];
      predicted += thin[to] = own[i] && !deepOwn[i] ? 1 : 0;
    }
  }
  return { style, depth, bounds, deepOwn, deep, thin, predicted, searched };
}

/** A cover with what is unknown beside it: that is predicted along, for the cover's sake, and left out again. */
function withUnknown({ cover, unknown }: FillRegion): Uint8Array {
  return unknown ? cover.map((v, i) => (v || unknown[i] ? 1 : 0)) : cover;
}

function fillPart(
  region: FillRegion,
  settings: FillSettings,
  onProgress: ((done: number) => void) | undefined,
  pieces: readonly Piece[] | undefined,
): FillResult {
  const { picture, cover } = region;
  const output: Raster = { ...picture, data: picture.data.slice() };
  const { style, depth, bounds, deepOwn, deep, thin, predicted, searched } = divided(region, settings);
  const thinShare = searched ? 0.3 : 1;
  if (predicted) {
    // Deep places are unknown to the prediction: they are completed along with it, but only thin pixels are kept.
    const options = { style, wanted: thin };
    layPieces(
      pieces ?? predictThin(picture, withUnknown(region), options, (f) => onProgress?.(f * thinShare)),
      cover,
      output,
    );
    if (searched) keepPixels(picture, output, deep);
  }
  let laidOut: LaidOut | null = null;
  let stretches = 0;
  if (searched) {
    const kind = isPredicted(style) ? 'first' : style;
    // Drawn guides say how the whole of it is laid out.
    const cut = isLaidOut(kind) && !region.guides;
    const boxes = componentBoxes(deepOwn, bounds.width, bounds.height, 24)
      .flatMap((box) => {
        const parts = cut ? stretchesOf(deepOwn, bounds.width, box) : [box];
        stretches = Math.max(stretches, parts.length);
        return parts.map((part) => ({ ...part, stretch: parts.length > 1 }));
      })
      .map((box) => ({ ...box, x: box.x + bounds.x, y: box.y + bounds.y }));
    boxes.forEach((box, n) => {
      const found = fillDeep(output, cover, deep, region, box, { ...settings, style: kind }, (f) =>
        onProgress?.(1 - (1 - thinShare) * (1 - (n + f) / boxes.length)),
      );
      laidOut ??= found;
      // What is laid out is known to the next stretch.
      if (box.stretch) clear(deep, output.width, box);
    });
  }
  const reason = reasonFor(style, depth, predicted, searched, laidOut, stretches);
  return { picture: output, style, depth, predicted, searched, reason };
}

function clear(plane: Uint8Array, width: number, { x, y, width: across, height }: Box): void {
  for (let v = y; v < y + height; v++) plane.fill(0, v * width + x, v * width + x + across);
}

/** Puts marked pixels back to what they were. */
function keepPixels({ data, channels }: Raster, output: Raster, marked: Uint8Array): void {
  for (let i = 0; i < marked.length; i++) {
    if (!marked[i]) continue;
    for (let c = 0; c < channels; c++) output.data[i * channels + c] = data[i * channels + c];
  }
}
