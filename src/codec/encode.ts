import sharp from 'sharp';
import { colourChannels, type Raster } from '../core/raster/raster.ts';
import { jpegWithExif, jpegWithResolution, pngWithExif, pngWithIptc, pngWithResolution } from './attach.ts';
import { tiffEnvelope, type Attachments } from './envelope.ts';
import { jpegWithIptc } from './iptc.ts';
import { xmpWithProvenance, type Provenance } from './xmp.ts';
import { exifForDelivery, tiffWithExif, tiffWithoutResolution, xmpForDelivery } from './exif.ts';

/** What goes along with pixels that leave the house. */
export interface Attached extends Attachments {
  exif?: Uint8Array | null;
  /** bare IPTC fields */
  iptc?: Uint8Array | null;
  place?: 'keep' | 'leave';
  /** what metadata are to say of how the picture came about */
  provenance?: Provenance;
}

/** Encodes pixels with everything that came with them and may leave the house; values go in as they are. */
export async function encode(
  raster: Raster,
  format: 'png' | 'tiff' | 'jpeg',
  attachments: Attached,
  quality = 92,
): Promise<Buffer> {
  const { icc, resolution = null } = attachments;
  const exif = attachments.exif ? exifForDelivery(attachments.exif, attachments.place) : null;
  const came = attachments.xmp ? xmpForDelivery(attachments.xmp, attachments.place) : null;
  const xmp = attachments.provenance ? xmpWithProvenance(came, attachments.provenance) : came;
  const iptc = attachments.iptc ?? null;
  let pipeline = sharp(tiffEnvelope(raster, { icc, xmp, resolution }), { ignoreIcc: true, limitInputPixels: false });
  const grey = colourChannels(raster.channels) === 1;
  const space = raster.depth === 16 && format !== 'jpeg' ? (grey ? 'grey16' : 'rgb16') : grey ? 'b-w' : 'srgb';
  pipeline = pipeline.toColourspace(space).keepIccProfile().keepXmp();
  if (format === 'png') {
    const png = pngWithResolution(await pipeline.png({ compressionLevel: 6 }).toBuffer(), resolution);
    const told = iptc ? pngWithIptc(png, iptc) : png;
    return exif ? pngWithExif(told, exif) : told;
  }
  if (format === 'tiff') {
    const ppmm = resolution ? { xres: resolution.x / 25.4, yres: resolution.y / 25.4 } : {};
    const tiff = await pipeline
      .tiff({ compression: 'deflate', predictor: 'horizontal', resolutionUnit: 'inch', ...ppmm })
      .toBuffer();
    if (!resolution) tiffWithoutResolution(tiff);
    return tiffWithExif(tiff, exif, iptc);
  }
  const encoded = await pipeline.flatten().jpeg({ quality, chromaSubsampling: '4:4:4' }).toBuffer();
  const sized = jpegWithResolution(encoded, resolution);
  const jpeg = iptc ? jpegWithIptc(sized, iptc) : sized;
  return exif ? jpegWithExif(jpeg, exif) : jpeg;
}
