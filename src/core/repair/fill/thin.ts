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
import { toFloat4 } from '../../raster/planes.ts';
import { grainByDepth, SMOOTH, WITH_GRAIN } from './depth-grain.ts';
import { layGrain } from './lay-grain.ts';
import { predictBlock } from './predict.ts';

const BLOCK = 960;
const APRON = 48;

/** Options of {@link fillThin}. */
export interface ThinOptions {
  /** whether the grain of the surroundings is restored, or kept low */
  grain: boolean;
  /** 1 where the prediction is wanted; blocks without any are left out. Default: the whole cover */
  wanted?: Uint8Array;
  /** which blocks to do, when several threads divide them */
  share?: { index: number; of: number };
}

/**
 * Fills a thin cover by prediction, block by block, so that memory follows the block and not the picture. Blocks read
 * the picture as it was and overlap by more than the prediction reaches, so their order does not matter.
 *
 * @param cover 1 where pixels are to be predicted
 * @param output a copy of `picture`, completed in place
 */
export function fillThin(
  picture: Raster,
  cover: Uint8Array,
  output: Raster,
  { grain, wanted = cover, share = { index: 0, of: 1 } }: ThinOptions,
  onProgress?: (done: number) => void,
): void {
  const { width, height } = picture;
  const blocks: Box[] = [];
  for (let y = 0; y < height; y += BLOCK) {
    for (let x = 0; x < width; x += BLOCK) {
      const box = { x, y, width: Math.min(BLOCK, width - x), height: Math.min(BLOCK, height - y) };
      const used = boundsOf({ ...box, data: cropPlane(wanted, width, box) });
      if (!isEmpty(used)) blocks.push(used);
    }
  }
  const mine = blocks.filter((_, n) => n % share.of === share.index);
  mine.forEach((box, n) => {
    fillBlock(picture, cover, output, box, grain);
    onProgress?.((n + 1) / mine.length);
  });
}

function fillBlock(picture: Raster, cover: Uint8Array, output: Raster, core: Box, grain: boolean): void {
  const box = growWithin(core, APRON, picture.width, picture.height);
  const colours = colourChannels(picture.channels);
  const image = toFloat4(crop(picture, box));
  const local = cropPlane(cover, picture.width, box);
  const { width, height } = box;
  const prediction = predictBlock({ image, width, height, colours, cover: local, originX: box.x, originY: box.y });
  grainByDepth(image, width, height, local, prediction, colours, grain ? WITH_GRAIN : SMOOTH);
  if (grain) layGrain(image, width, height, local, colours, { originX: box.x, originY: box.y });
  const scale = fullScale(picture.depth) / 255;
  for (let y = core.y; y < core.y + core.height; y++) {
    for (let x = core.x; x < core.x + core.width; x++) {
      const i = (y - box.y) * box.width + x - box.x;
      if (!local[i]) continue;
      const o = (y * picture.width + x) * picture.channels;
      for (let c = 0; c < colours; c++) output.data[o + c] = Math.round(image[i * 4 + c] * scale);
    }
  }
}
