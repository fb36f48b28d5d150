import { colourChannels, type Raster } from '../../raster/raster.ts';
import { fadeModel } from '../scoring/fade-model.ts';

/** A connected group of pixels, in a box of its own. */
export interface Segment {
  x: number;
  y: number;
  width: number;
  height: number;
  mask: Uint8Array;
  area: number;
}

/** How a speck differs in colour from its ground, and how colourful that is. */
export function colourOf(
  picture: Raster,
  role: Uint8Array,
  x0: number,
  y0: number,
  w: number,
  h: number,
  light: boolean,
) {
  const colours = colourChannels(picture.channels);
  const top = picture.depth === 16 ? 65535 : 255;
  const sums = [0, 0, 0];
  const grounds = [0, 0, 0];
  let [n, m] = [0, 0];
  for (let v = 0; v < h; v++) {
    for (let u = 0; u < w; u++) {
      const k = role[v * w + u];
      if (k === 1) continue;
      if (k === 0 && (u + v) % 3) continue;
      const i = ((y0 + v) * picture.width + x0 + u) * picture.channels;
      if (k) n++;
      else m++;
      for (let c = 0; c < 3; c++) (k ? sums : grounds)[c] += picture.data[i + Math.min(c, colours - 1)] / top;
    }
  }
  const ground = grounds.map((v) => v / Math.max(1, m));
  const most = Math.max(...ground);
  return {
    ...fadeModel(
      sums.map((v) => v / Math.max(1, n)),
      ground,
      light,
    ),
    saturation: most > 0 ? 1 - Math.min(...ground) / most : 0,
  };
}

/** First and last column and row of a segment, px of the picture. */
export function extent(s: Segment): { left: number; right: number; top: number; bottom: number } {
  let [left, right, top, bottom] = [Infinity, -1, Infinity, -1];
  for (let v = 0, k = 0; v < s.height; v++) {
    for (let u = 0; u < s.width; u++, k++) {
      if (!s.mask[k]) continue;
      left = Math.min(left, s.x + u);
      right = Math.max(right, s.x + u);
      top = Math.min(top, s.y + v);
      bottom = Math.max(bottom, s.y + v);
    }
  }
  return { left, right, top, bottom };
}
