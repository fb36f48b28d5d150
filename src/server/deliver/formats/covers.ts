import { strToU8, zipSync, type Zippable } from 'fflate';
import sharp from 'sharp';
import type { Patch } from '../../../core/raster/patch.ts';
import { createRaster, fullScale, intersect, type Box } from '../../../core/raster/raster.ts';
import type { Format } from '../format.ts';

/** A patch's cover as an 8-bit grey PNG of the canvas' size. */
async function coverPng(canvas: Box, patch: Patch): Promise<Buffer> {
  const out = createRaster(canvas.width, canvas.height, 1, 8);
  const unit = fullScale(patch.depth) / 255;
  const part = intersect(patch, canvas);
  for (let y = part.y; y < part.y + part.height; y++) {
    for (let x = part.x; x < part.x + part.width; x++) {
      const from = (y - patch.y) * patch.width + x - patch.x;
      out.data[(y - canvas.y) * out.width + x - canvas.x] = patch.data[(from + 1) * patch.channels - 1] / unit;
    }
  }
  return sharp(Buffer.from(out.data.buffer), { raw: { width: out.width, height: out.height, channels: 1 } })
    .toColourspace('b-w')
    .png()
    .toBuffer();
}

/** The cover of each repair, in one zip file. */
export const covers: Format = async ({ canvas, layers }) => {
  const files: Zippable = {};
  for (const { name, patch } of layers.flatMap((layer) => layer.repairs))
    files[`${name}.png`] = [await coverPng(canvas, patch), { level: 0 }];
  if (!Object.keys(files).length) files['no repairs.txt'] = strToU8('This picture has no repairs yet.\n');
  return zipSync(files);
};
