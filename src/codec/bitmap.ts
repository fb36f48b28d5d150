import { decode as decodeBmp } from 'bmp-ts';
import { allocateSamples, type Channels, type Raster } from '../core/raster/raster.ts';
import type { Decoded } from './decoded.ts';
import { refusePixels, type Limits } from './limits.ts';
import { Refused } from '../contract/refused.ts';
import { rounded, usable } from './structure.ts';

/** Decodes a BMP file. @throws Refused with what is wrong and what to do */
export function decodeBitmap(file: Buffer, limits: Limits): Decoded {
  const width = file.length > 26 ? file.readInt32LE(18) : 0;
  const height = file.length > 26 ? Math.abs(file.readInt32LE(22)) : 0;
  if (width <= 0 || height <= 0) throw new Refused('The bitmap has no pixels. Export it again.');
  refusePixels(width, height, limits);
  try {
    const image = decodeBmp(file);
    return {
      raster: bitmapRaster(image, alphaBits(file)),
      icc: null,
      exif: null,
      xmp: null,
      resolution: rounded(usable(image.hr, image.vr, 0.0254)),
      format: 'bmp',
    };
  } catch {
    throw new Refused(
      'This bitmap cannot be read: it is damaged, or packed in a rare way. Save it as PNG and send that.',
    );
  }
}

/** Whether a bitmap says which of its bits are alpha. Source: the V3 to V5 headers, which name them behind those of the colours. */
const alphaBits = (file: Buffer): boolean => file.readUInt32LE(14) >= 56 && file.readUInt32LE(66) !== 0;

/** A bitmap's colours: grey where its palette holds greys only, with alpha only where the file says which bits hold it. */
function bitmapRaster(image: ReturnType<typeof decodeBmp>, alpha: boolean): Raster {
  const { width, height, data: abgr, palette, bitPP } = image;
  const grey = bitPP <= 8 && palette?.every((c) => c.red === c.green && c.green === c.blue);
  const channels: Channels = grey ? 1 : bitPP > 8 && alpha ? 4 : 3;
  const samples = allocateSamples(width * height * channels, 8, true);
  for (let i = 0, from = 0, to = 0; i < width * height; i++, from += 4, to += channels)
    for (let c = 0; c < channels; c++) samples[to + c] = abgr[from + ((3 - c) & 3)];
  return { width, height, channels, depth: 8, data: samples };
}
