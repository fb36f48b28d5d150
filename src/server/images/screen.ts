import sharp, { type Sharp } from 'sharp';
import { colourChannels, createRaster, crop, fullScale, type Box, type Raster } from '../../core/raster/raster.ts';
import { attentionOf } from '../../core/find/finders/saliency.ts';
import type { Patch } from '../../core/raster/patch.ts';
import { tiffEnvelope } from '../../codec/envelope.ts';
import { profileName } from '../../codec/decode.ts';

/** Pixels of any depth and profile as an encoder pipeline in screen colours (sRGB, 8 bit). Stored values never change. */
function toScreen(raster: Raster, icc: Uint8Array | null): Sharp {
  const plain = !icc || /^sRGB/i.test(profileName(Buffer.from(icc)) ?? '');
  if (plain && raster.depth === 8) {
    const { width, height, channels } = raster;
    const bytes = Buffer.from(raster.data.buffer, raster.data.byteOffset, raster.data.byteLength);
    return sharp(bytes, { raw: { width, height, channels } });
  }
  return sharp(tiffEnvelope(raster, { icc: plain ? null : icc })).toColourspace('srgb');
}

/** One tile; with `other` the amplified difference of the two pictures on mid grey. */
export async function screenTile(
  raster: Raster,
  other: Raster | undefined,
  box: Box,
  icc: Uint8Array | null,
  lossless: boolean,
): Promise<{ bytes: Uint8Array; type: string }> {
  const part = crop(raster, box);
  if (other) {
    const before = crop(other, box);
    const top = fullScale(part.depth);
    const colours = colourChannels(part.channels);
    const out = createRaster(box.width, box.height, colours, 8);
    for (let i = 0; i < box.width * box.height; i++) {
      for (let c = 0; c < colours; c++) {
        const d = ((part.data[i * part.channels + c] - before.data[i * part.channels + c]) / top) * 255;
        out.data[i * colours + c] = Math.max(0, Math.min(255, Math.round(128 + 3 * d)));
      }
    }
    return { bytes: await toScreen(out, null).png({ compressionLevel: 1 }).toBuffer(), type: 'image/png' };
  }
  const pipeline = toScreen(part, icc);
  if (lossless || part.channels === 2 || part.channels === 4) {
    return {
      bytes: await pipeline.png({ compressionLevel: 1, adaptiveFiltering: false }).toBuffer(),
      type: 'image/png',
    };
  }
  return { bytes: await pipeline.jpeg({ quality: 90, chromaSubsampling: '4:4:4' }).toBuffer(), type: 'image/jpeg' };
}

/** A patch as PNG with alpha, in screen colours. */
export async function screenPatch(patch: Patch, icc: Uint8Array | null): Promise<Uint8Array> {
  const raster: Raster = { ...patch };
  return toScreen(raster, icc).png({ compressionLevel: 1 }).toBuffer();
}

/** The picture in grey, with amber where it draws the eye. */
export async function screenAttention(raster: Raster): Promise<Uint8Array> {
  const { width, height, data, lightness } = attentionOf({ picture: raster });
  const out = Buffer.alloc(width * height * 3);
  for (let i = 0; i < data.length; i++) {
    const grey = 30 + 1.9 * lightness[i];
    const heat = Math.min(1, data[i] ** 1.3);
    [244, 150, 0].forEach((v, c) => (out[i * 3 + c] = Math.round(grey + (v - grey) * heat)));
  }
  return sharp(out, { raw: { width, height, channels: 3 } })
    .resize({ width: width * 3 })
    .png({ compressionLevel: 3 })
    .toBuffer();
}
