import type { Values } from '../../contract/views.ts';
import type { Point } from '../../core/mask/shapes.ts';
import { colourChannels, fullScale, type Raster } from '../../core/raster/raster.ts';
import { ciede2000, labOf, type Lab } from '../../core/tone/lab.ts';

/** Samples of a pixel; null beside the raster. */
function samplesAt({ width, height, channels, data }: Raster, x: number, y: number): number[] | null {
  if (x < 0 || y < 0 || x >= width || y >= height) return null;
  const from = (y * width + x) * channels;
  return Array.from(data.subarray(from, from + channels));
}

/** Colour of a pixel's samples, taken for sRGB. */
function colourOf(samples: number[], { channels, depth }: Raster): Lab {
  const eight = samples.map((v) => (255 * v) / fullScale(depth));
  const [r, g, b] = colourChannels(channels) === 1 ? [eight[0], eight[0], eight[0]] : eight;
  return labOf(r, g, b);
}

/** What a pixel is, beside what it was as it came; null where the canvas has none. @param corner of the canvas, px of the base */
export function valuesAt(
  original: Raster,
  now: Raster,
  corner: { x: number; y: number },
  [x, y]: Point,
): Values | null {
  const after = samplesAt(now, x - corner.x, y - corner.y);
  if (!after) return null;
  const before = samplesAt(original, x, y);
  return { before, after, difference: before && ciede2000(colourOf(before, original), colourOf(after, now)) };
}
