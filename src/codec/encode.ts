import sharp from 'sharp';
import { colourChannels, type Raster } from '../core/raster/raster.ts';
import { jpegWithExif, pngWithExif, uprightExif } from './attach.ts';
import { tiffEnvelope, type Attachments } from './envelope.ts';

/** Encodes pixels with everything that came with them; values go in as they are. */
export async function encode(
  raster: Raster,
  format: 'png' | 'tiff' | 'jpeg',
  attachments: Attachments & { exif?: Uint8Array | null },
  quality = 92,
): Promise<Buffer> {
  const exif = attachments.exif ? uprightExif(attachments.exif) : null;
  let pipeline = sharp(tiffEnvelope(raster, attachments), { ignoreIcc: true, limitInputPixels: false });
  const grey = colourChannels(raster.channels) === 1;
  const space = raster.depth === 16 && format !== 'jpeg' ? (grey ? 'grey16' : 'rgb16') : grey ? 'b-w' : 'srgb';
  pipeline = pipeline.toColourspace(space).keepIccProfile().keepXmp();
  if (format === 'png') {
    const png = await pipeline.png({ compressionLevel: 6 }).toBuffer();
    return exif ? pngWithExif(png, exif) : png;
  }
  if (format === 'tiff') {
    const ppmm = attachments.ppi ? { xres: attachments.ppi / 25.4, yres: attachments.ppi / 25.4 } : {};
    return pipeline.tiff({ compression: 'deflate', predictor: 'horizontal', ...ppmm }).toBuffer();
  }
  const jpeg = await pipeline.flatten().jpeg({ quality, chromaSubsampling: '4:4:4' }).toBuffer();
  return exif ? jpegWithExif(jpeg, exif) : jpeg;
}
