import { colourChannels, crop, cropPlane, type Box, type Raster } from '../../raster/raster.ts';
import { distanceTransform } from '../../mask/distance.ts';
import { layoutSize, lookedAt, type FillRegion } from './fill-region.ts';
import { guidesFrom } from './grounds/guides.ts';
import { fillByLayout, type LaidOut } from './layout/fill-by-layout.ts';
import { NoDonorsInReach } from './no-donors.ts';
import { isLaidOut, LAID_OUT, reachOf, type FillSettings, type FillStyle, type PredictedStyle } from './settings.ts';
import { fillWide } from './wide.ts';

/** Thrown when nothing clean is left to take donors from; its message is for the user. */
export class NoDonors extends Error {
  constructor() {
    super('There is no clean place to take donors from. Widen the donor area or bar less of the picture.');
  }
}

/** Share of the corrections of tone that is applied. */
const TONE_SHARE = { none: 0, gentle: 0.5, strong: 1 };

/** Fills the deep places inside a box from donors around; looks farther while there are none. */
export function fillDeep(
  output: Raster,
  cover: Uint8Array,
  deep: Uint8Array,
  { unknown, allowed, chosen, guides, quick, level }: FillRegion,
  box: Box,
  settings: FillSettings & { style: Exclude<FillStyle, PredictedStyle> },
  onProgress: (done: number) => void,
): LaidOut | null {
  const { width, height } = output;
  const { style } = settings;
  let reach = isLaidOut(style) ? reachOf(style, layoutSize(box)) : reachOf(style, Math.max(box.width, box.height));
  for (;;) {
    const frame = lookedAt(box, reach, width, height, level);
    const all = frame.width === width && frame.height === height;
    const part = all ? output : crop(output, frame);
    const covered = cropPlane(deep, width, frame);
    const { known, nothing, donors } = masksIn(frame, width, covered, { cover, unknown, allowed });
    const inner: Box = { ...box, x: box.x - frame.x, y: box.y - frame.y };
    // Other deep places are unknown when this one is laid out; a search completes those in reach along with it.
    const target = isLaidOut(style) ? within(covered, frame, inner) : covered;
    try {
      let done: Raster;
      let laidOut: LaidOut | null = null;
      if (isLaidOut(style)) {
        const rank = LAID_OUT.indexOf(style);
        const own = guides && guidesFrom(guides, frame.x, frame.y);
        const region = { picture: part, cover: target, known, allowed: donors, chosen, guides: own, quick, level };
        laidOut = fillByLayout(region, { seed: settings.seed, rank, tone: TONE_SHARE[settings.tone] }, onProgress);
        done = laidOut.picture;
      } else {
        // What is unknown beside the cover is found along with it, for its sake, and left out again.
        const along = nothing ? withBeside(target, nothing, frame.width) : target;
        done = fillWide({ picture: part, cover: along, allowed: donors }, { ...settings, style }, onProgress);
      }
      copyPixels(done, output, target, frame, isLaidOut(style) ? inner : { ...frame, x: 0, y: 0 });
      return laidOut;
    } catch (error) {
      if (!(error instanceof NoDonorsInReach)) throw error;
      if (all) {
        throw new NoDonors();
      }
      reach *= 2;
    }
  }
}

/** What may be looked at and taken from within a frame. */
function masksIn(
  frame: Box,
  width: number,
  covered: Uint8Array,
  { cover, unknown, allowed }: Pick<FillRegion, 'cover' | 'unknown' | 'allowed'>,
) {
  const nothing = unknown && cropPlane(unknown, width, frame);
  const known = covered.map((v, i) => (v || nothing?.[i] ? 0 : 1));
  const free = allowed && cropPlane(allowed, width, frame);
  const all = cropPlane(cover, width, frame);
  const donors = all.map((v, i) => (v || !(free?.[i] ?? 1) || nothing?.[i] ? 0 : 1));
  return { known, nothing, donors };
}

/** px beside a cover within which a search compares it. */
const BESIDE = 24;

/** A cover with what of another plane lies beside it. */
function withBeside(cover: Uint8Array, other: Uint8Array, width: number): Uint8Array {
  const away = distanceTransform(cover, width, cover.length / width, 'inside');
  return cover.map((v, i) => (v || (other[i] && away[i] <= BESIDE) ? 1 : 0));
}

/** A plane as it is in a box of it, 0 elsewhere. */
function within(plane: Uint8Array, { width, height }: Box, box: Box): Uint8Array {
  const out = new Uint8Array(width * height);
  for (let y = box.y; y < box.y + box.height; y++) {
    const from = y * width + box.x;
    out.set(plane.subarray(from, from + box.width), from);
  }
  return out;
}

/** Copies the colours of marked pixels in a box of a frame to where the frame lies. */
function copyPixels(from: Raster, to: Raster, marked: Uint8Array, frame: Box, box: Box): void {
  const { channels } = to;
  const colours = colourChannels(channels);
  for (let y = box.y; y < box.y + box.height; y++) {
    for (let x = box.x; x < box.x + box.width; x++) {
      const i = y * frame.width + x;
      if (!marked[i]) continue;
      const o = ((frame.y + y) * to.width + frame.x + x) * channels;
      for (let c = 0; c < colours; c++) to.data[o + c] = from.data[i * channels + c];
    }
  }
}
