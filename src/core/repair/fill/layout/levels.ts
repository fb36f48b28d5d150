import { colourChannels, type Raster } from '../../../raster/raster.ts';

/** One resolution of a window: four bytes a pixel (red, green, blue, unused; grey in all three), and what is known of it. */
export interface Level {
  width: number;
  height: number;
  pixels: Uint8Array;
  /** 1 where pixels are to be found */
  cover: Uint8Array;
  /** how many those are */
  covered: number;
  /** 1 where a pixel may be looked at: 0 on all that is covered, and on what belongs to another ground */
  known: Uint8Array;
  /** 1 where pixels may be taken from; only known ones */
  allowed: Uint8Array;
  /** rows from a place of the window to the same place of its mirrored copy, where there is one */
  beneath?: number;
}

/** The finest level: the window itself, 16-bit samples cut to their upper byte. */
export function finestLevel(picture: Raster, cover: Uint8Array, known: Uint8Array, allowed: Uint8Array): Level {
  const { width, height, channels, data } = picture;
  const shift = picture.depth === 16 ? 8 : 0;
  const step = colourChannels(channels) === 3 ? 1 : 0;
  const pixels = new Uint8Array(width * height * 4);
  for (let i = 0, from = 0; i < pixels.length; i += 4, from += channels) {
    pixels[i] = data[from] >> shift;
    pixels[i + 1] = data[from + step] >> shift;
    pixels[i + 2] = data[from + 2 * step] >> shift;
  }
  return { width, height, pixels, cover, covered: coveredIn(cover), known, allowed };
}

/**
 * Half the size. A pixel is covered where any of the four is, and known where any of the four is known and none is covered; its
 * colour is the mean of the known ones. It may be taken where all four may.
 */
export function halveLevel({ width, height, pixels, cover, known, allowed, beneath }: Level): Level {
  const w = (width + 1) >> 1;
  const h = (height + 1) >> 1;
  const out: Level = {
    width: w,
    height: h,
    pixels: new Uint8Array(w * h * 4),
    cover: new Uint8Array(w * h),
    covered: 0,
    known: new Uint8Array(w * h),
    allowed: new Uint8Array(w * h),
    ...(beneath && { beneath: beneath >> 1 }),
  };
  for (let y = 0, o = 0; y < h; y++) {
    const upper = 2 * y * width;
    const lower = 2 * y + 1 < height ? upper + width : upper;
    for (let x = 0; x < w; x++, o++) {
      const right = 2 * x + 1 < width ? 1 : 0;
      const a = upper + 2 * x;
      const b = a + right;
      const c = lower + 2 * x;
      const d = c + right;
      out.allowed[o] = allowed[a] & allowed[b] & allowed[c] & allowed[d];
      out.covered += out.cover[o] = cover[a] | cover[b] | cover[c] | cover[d];
      const n = known[a] + known[b] + known[c] + known[d];
      out.known[o] = n && !out.cover[o] ? 1 : 0;
      if (n === 0 || n === 4) {
        for (let k = 0; k < 3; k++)
          out.pixels[4 * o + k] =
            (pixels[4 * a + k] + pixels[4 * b + k] + pixels[4 * c + k] + pixels[4 * d + k] + 2) >> 2;
        continue;
      }
      for (let k = 0; k < 3; k++) {
        let sum = n >> 1;
        for (const i of [a, b, c, d]) if (known[i]) sum += pixels[4 * i + k];
        out.pixels[4 * o + k] = sum / n;
      }
    }
  }
  return out;
}

/** Number of covered pixels. */
export function coveredIn(cover: Uint8Array): number {
  let n = 0;
  for (let i = 0; i < cover.length; i++) n += cover[i];
  return n;
}
