import { sampleAt } from '../../../raster/affine.ts';
import { colourChannels, createRaster, type Box, type Raster } from '../../../raster/raster.ts';
import { fromFront, toFront, type Plane } from '../grounds/plane.ts';
import type { Level } from './levels.ts';

/**
 * A window seen from the front: what lies in a slanted plane becomes regular. Of the same size as the window, its middle in the
 * same place. Null where a covered pixel would lie outside.
 */
export function frontOf(
  picture: Raster,
  level: Level,
  plane: Plane,
): { picture: Raster; masks: Pick<Level, 'cover' | 'known' | 'allowed'> } | null {
  const { width, height } = level;
  const out = createRaster(width, height, picture.channels, picture.depth);
  const cover = new Uint8Array(width * height);
  const known = new Uint8Array(width * height);
  const allowed = new Uint8Array(width * height);
  const colours = colourChannels(picture.channels);
  const { channels, data } = picture;
  const place = new Float64Array(2);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (!fromFront(plane, x + 0.5, y + 0.5, place)) continue;
      const u = place[0] - 0.5;
      const v = place[1] - 0.5;
      const x0 = Math.floor(u);
      const y0 = Math.floor(v);
      if (x0 < 0 || y0 < 0 || x0 + 1 >= width || y0 + 1 >= height) continue;
      const a = y0 * width + x0;
      const corners = [a, a + 1, a + width, a + width + 1];
      const [fx, fy] = [u - x0, v - y0];
      if (corners.some((j) => level.cover[j])) cover[i] = 1;
      known[i] = !cover[i] && corners.every((j) => level.known[j]) ? 1 : 0;
      allowed[i] = corners.every((j) => level.allowed[j]) ? 1 : 0;
      for (let c = 0; c < colours; c++) {
        const of = (j: number) => data[j * channels + c];
        const upper = of(a) * (1 - fx) + of(a + 1) * fx;
        const lower = of(a + width) * (1 - fx) + of(a + width + 1) * fx;
        out.data[i * channels + c] = Math.round(upper * (1 - fy) + lower * fy);
      }
    }
  }
  // Every covered pixel of the window must find its place: its nearest one on the plane is covered.
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (!level.cover[i]) continue;
      if (!toFront(plane, x + 0.5, y + 0.5, place)) return null;
      const u = Math.floor(place[0]);
      const v = Math.floor(place[1]);
      if (u < 0 || v < 0 || u >= width || v >= height) return null;
      const j = v * width + u;
      cover[j] = 1;
      known[j] = allowed[j] = 0;
    }
  }
  return { picture: out, masks: { cover, known, allowed } };
}

/** Samples a window at given places, one a pixel of a box, cubic. */
export function sampleWindow(
  picture: Raster,
  box: Box,
  place: (x: number, y: number, out: Float64Array) => void,
  wanted: Uint8Array,
) {
  const whole = { x: 0, y: 0, width: picture.width, height: picture.height };
  return sampleAt(picture, whole, picture, box, place, 1, wanted);
}
