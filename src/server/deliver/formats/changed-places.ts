import sharp from 'sharp';
import { createRaster, fullScale, intersect } from '../../../core/raster/raster.ts';
import type { Format } from '../format.ts';

/** One grey PNG of the canvas: as light as the picture is changed there, by all repairs that are seen. */
export const changedPlaces: Format = ({ canvas, layers }) => {
  const { width, height, data } = createRaster(canvas.width, canvas.height, 1, 8);
  for (const layer of layers) {
    for (const { patch, strength, visible } of layer.visible ? layer.repairs : []) {
      const part = intersect(patch, canvas);
      const share = visible ? (strength * layer.opacity) / fullScale(patch.depth) : 0;
      for (let y = part.y; y < part.y + part.height; y++) {
        for (let x = part.x; x < part.x + part.width; x++) {
          const alpha = patch.data[((y - patch.y) * patch.width + x - patch.x + 1) * patch.channels - 1];
          const at = (y - canvas.y) * width + x - canvas.x;
          data[at] = Math.max(data[at], Math.round(255 * alpha * share));
        }
      }
    }
  }
  return sharp(data, { raw: { width, height, channels: 1 } })
    .toColourspace('b-w')
    .png()
    .toBuffer();
};
