import { boundsOf } from '../../mask/mask.ts';
import {
  colourChannels,
  crop,
  cropPlane,
  fullScale,
  growWithin,
  isEmpty,
  type Box,
  type Raster,
} from '../../raster/raster.ts';
import type { Piece, Share } from '../method.ts';
import { toFloat4 } from '../../raster/planes.ts';
import { grainByDepth, SMOOTH, WITH_GRAIN } from './depth-grain.ts';
import { layGrain } from './lay-grain.ts';
import { predictBlock } from './predict.ts';
import type { FillStyle } from './settings.ts';

const BLOCK = 960;
const APRON = 48;
/** The same where edges are carried straight on, which are followed farther. */
const STRAIGHT_APRON = 200;

/** What a pixel of a block costs, beside one that is covered. */
const LOAD = 0.15;

/** Options of {@link fillThin}. */
export interface ThinOptions {
  /** what is predicted; `smooth` keeps the grain low, any other style restores that of the surroundings */
  style?: FillStyle;
  /** 1 where the prediction is wanted; blocks without any are left out. Default: the whole cover */
  wanted?: Uint8Array;
  /** which blocks to do, when several threads divide them */
  share?: Share;
}

/** Fills a thin cover by prediction; `output` is a copy of `picture` and completed in place. See {@link predictThin}. */
export function fillThin(
  picture: Raster,
  cover: Uint8Array,
  output: Raster,
  options: ThinOptions,
  onProgress?: (done: number) => void,
): void {
  layPieces(predictThin(picture, cover, options, onProgress), cover, output);
}

/** Puts the covered pixels of pieces into a picture. */
export function layPieces(pieces: readonly Piece[], cover: Uint8Array, output: Raster): void {
  const { width, channels } = output;
  for (const { x, y, raster } of pieces) {
    for (let v = 0, from = 0; v < raster.height; v++) {
      for (let u = 0, to = (y + v) * width + x; u < raster.width; u++, to++, from++) {
        if (!cover[to]) continue;
        for (let c = 0; c < channels; c++) output.data[to * channels + c] = raster.data[from * channels + c];
      }
    }
  }
}

/**
 * Predicts a thin cover block by block, so that memory follows the block and not the picture. Blocks read the picture as it
 * was and overlap by more than the prediction reaches, so their order does not matter.
 *
 * @param cover 1 where pixels are to be predicted
 * @returns the blocks, completed, by their place in `picture`
 */
export function predictThin(
  picture: Raster,
  cover: Uint8Array,
  { style = 'faithful', wanted = cover, share = { index: 0, of: 1 } }: ThinOptions,
  onProgress?: (done: number) => void,
): Piece[] {
  const { width, height } = picture;
  const blocks: Array<{ box: Box; covered: number }> = [];
  for (let y = 0; y < height; y += BLOCK) {
    for (let x = 0; x < width; x += BLOCK) {
      const box = { x, y, width: Math.min(BLOCK, width - x), height: Math.min(BLOCK, height - y) };
      const data = cropPlane(wanted, width, box);
      const used = boundsOf({ ...box, data });
      if (!isEmpty(used)) blocks.push({ box: used, covered: data.reduce((a, b) => a + b, 0) });
    }
  }
  // The largest first, each to whom has least to do.
  const load = new Array<number>(share.of).fill(0);
  const mine: Box[] = [];
  for (const { box, covered } of blocks.sort((a, b) => b.covered - a.covered)) {
    const least = load.indexOf(Math.min(...load));
    load[least] += covered + LOAD * box.width * box.height;
    if (least === share.index) mine.push(box);
  }
  return mine.map((box, n) => {
    const raster = predictedBlock(picture, cover, box, style);
    onProgress?.((n + 1) / mine.length);
    return { x: box.x, y: box.y, raster };
  });
}

function predictedBlock(picture: Raster, cover: Uint8Array, core: Box, style: FillStyle): Raster {
  const straight = style === 'straight';
  const grain = style !== 'smooth';
  const box = growWithin(core, straight ? STRAIGHT_APRON : APRON, picture.width, picture.height);
  const colours = colourChannels(picture.channels);
  const image = toFloat4(crop(picture, box));
  const local = cropPlane(cover, picture.width, box);
  const { width, height } = box;
  const prediction = predictBlock({
    image,
    width,
    height,
    colours,
    cover: local,
    originX: box.x,
    originY: box.y,
    straight,
  });
  grainByDepth(image, width, height, local, prediction, colours, grain ? WITH_GRAIN : SMOOTH);
  if (grain) layGrain(image, width, height, local, colours, { originX: box.x, originY: box.y });
  const scale = fullScale(picture.depth) / 255;
  const output = crop(picture, core);
  for (let y = 0, o = 0; y < core.height; y++) {
    const row = (core.y + y - box.y) * width + core.x - box.x;
    for (let x = 0; x < core.width; x++, o += picture.channels) {
      if (!local[row + x]) continue;
      for (let c = 0; c < colours; c++) output.data[o + c] = Math.round(image[(row + x) * 4 + c] * scale);
    }
  }
  return output;
}
