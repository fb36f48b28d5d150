import { openSync, readFileSync, readSync, closeSync, statSync } from 'node:fs';
import { basename } from 'node:path';
import sharp from 'sharp';
import type { Facts } from '../contract/studio.ts';
import {
  allocateSamples,
  colourChannels,
  type Channels,
  type Depth,
  type Raster,
  type Samples,
} from '../core/raster/raster.ts';
import { decodeBitmap } from './bitmap.ts';
import { refusePixels, type Limits } from './limits.ts';
import { Refused } from '../contract/refused.ts';
import type { Accompanying, Decoded } from './decoded.ts';
import { iptcFields } from './iptc.ts';
import { namesPlace } from './exif.ts';
import { decodeOpenRaster, isOpenRaster } from './openraster.ts';
import { exifResolution, rounded, structureOf, type Resolution, type Structure } from './structure.ts';

const ACCEPTED = 'Send a JPEG, PNG, TIFF, WebP, BMP or OpenRaster file.';

function magic(source: string | Buffer): Buffer {
  if (typeof source !== 'string') return source.subarray(0, 16);
  const file = openSync(source, 'r');
  try {
    const head = Buffer.alloc(16);
    return head.subarray(0, readSync(file, head, 0, 16, 0));
  } finally {
    closeSync(file);
  }
}

const OPTIONS = { ignoreIcc: true, limitInputPixels: false, sequentialRead: true, failOn: 'warning' } as const;

/**
 * Reads the head of a file that sharp decodes, without its pixels.
 * @throws Refused when it cannot be taken in, with what is wrong and what to do
 */
async function readHead(source: string | Buffer, limits: Limits) {
  const structure = structureOf(source);
  if (structure.lab)
    throw new Refused('The colour mode “Lab” is not read. Convert the file to RGB or grey and send it again.');
  let meta;
  try {
    meta = await sharp(source, OPTIONS).metadata();
  } catch (error) {
    const text = (error as Error).message;
    if (/unsupported image format|not a known/i.test(text))
      throw new Refused(`This is not a picture that can be read. ${ACCEPTED}`);
    throw new Refused('The file is damaged. Export or scan it again.');
  }
  const { format = '', width = 0, height = 0 } = meta;
  if (!['jpeg', 'png', 'tiff', 'webp'].includes(format)) {
    throw new Refused(`A ${format.toUpperCase()} file is not taken in. ${ACCEPTED}`);
  }
  if ((format === 'webp' && (meta.pages ?? 1) > 1) || structure.animated)
    throw new Refused('This file is animated. Export the one frame that is wanted.');
  if (structure.pages > 1)
    throw new Refused(`This file has ${structure.pages} pages. Export the one that is wanted as a file of its own.`);
  if (structure.premultiplied)
    throw new Refused(
      'The alpha of this file is multiplied into its colours. Save it with straight alpha and send it again.',
    );
  if (meta.space === 'cmyk')
    throw new Refused('This file is CMYK. Convert it to RGB with its own profile and send it again.');
  if (!['srgb', 'rgb', 'rgb16', 'grey16', 'b-w'].includes(meta.space ?? '')) {
    throw new Refused(
      `The colour mode “${meta.space}” is not read. Convert the file to RGB or grey and send it again.`,
    );
  }
  const channels = meta.channels ?? 0;
  if (channels > 4 || (channels % 2 === 0) !== (meta.hasAlpha === true))
    throw new Refused(
      `This file has ${channels} channels. Save it as grey or RGB, with one alpha channel at most, and send it again.`,
    );
  if (meta.depth !== 'uchar' && meta.depth !== 'ushort') {
    throw new Refused(
      `Samples of kind “${meta.depth}” are not read. Convert the file to 8 or 16 bit and send it again.`,
    );
  }
  refusePixels(width, height, limits);
  return { ...meta, format, structure };
}

/** What decodes a file, by its first bytes. */
function decoderOf(head: Buffer): 'bitmap' | 'openRaster' | 'sharp' {
  if (head.length === 0) throw new Refused('The file is empty. Export or scan it again.');
  if (head.toString('latin1', 0, 2) === 'BM') return 'bitmap';
  return isOpenRaster(head) ? 'openRaster' : 'sharp';
}

/**
 * Looks at the head of a file, which takes no time even when all threads are at work.
 * @throws Refused when it already tells that the file cannot be taken in
 */
export async function checkFile(path: string, limits: Limits): Promise<void> {
  if (decoderOf(magic(path)) === 'sharp') await readHead(path, limits);
}

/**
 * Decodes a file, given by path or contents, to pixels as they stand in it: no colour conversion, orientation applied.
 * @throws Refused with what is wrong and what to do
 */
export async function decodeFile(source: string | Buffer, limits: Limits): Promise<Decoded> {
  const decoder = decoderOf(magic(source));
  if (decoder === 'bitmap') return decodeBitmap(typeof source === 'string' ? readFileSync(source) : source, limits);
  if (decoder === 'openRaster') {
    const file = typeof source === 'string' ? readFileSync(source) : source;
    return decodeOpenRaster(file, limits, (png) => decodeFile(png, limits));
  }
  const meta = await readHead(source, limits);
  const depth: Depth = meta.depth === 'ushort' ? 16 : 8;
  const grey = meta.space === 'b-w' || meta.space === 'grey16';
  // The raw writer drops the alpha of grey pictures, so these go through RGB, whose three channels then are alike.
  const spread = grey && meta.hasAlpha === true;
  try {
    const pipeline = sharp(source, OPTIONS)
      .autoOrient()
      .toColourspace(depth === 16 ? (grey && !spread ? 'grey16' : 'rgb16') : grey && !spread ? 'b-w' : 'srgb')
      .raw({ depth: depth === 16 ? 'ushort' : 'uchar' });
    const { data, info } = await pipeline.toBuffer({ resolveWithObject: true });
    const all = intoShared(data, info.width, info.height, info.channels, depth);
    const raster = spread && all.channels === 4 ? greyWithAlpha(all) : all;
    return {
      raster,
      ...accompanyingOf(meta),
      format: meta.format,
    };
  } catch {
    throw new Refused('The file is damaged or cut short. Export or scan it again.');
  }
}

/**
 * Reads what a file says beside its pixels, without these where that can be done.
 * @throws Refused as {@link decodeFile} does
 */
export async function readAccompanying(source: string | Buffer, limits: Limits): Promise<Accompanying> {
  if (decoderOf(magic(source)) !== 'sharp') return decodeFile(source, limits);
  const meta = await readHead(source, limits);
  return accompanyingOf(meta);
}

const accompanyingOf = (meta: Awaited<ReturnType<typeof readHead>>): Accompanying => ({
  icc: meta.icc ?? null,
  exif: meta.exif ?? null,
  xmp: meta.xmp ?? null,
  iptc: iptcFields(meta.iptc),
  resolution: resolutionOf(meta.structure, meta.exif, meta.orientation),
});

/** The resolution of a file as its pixels are handed on, upright; what EXIF says goes before what the container says. */
function resolutionOf(structure: Structure, exif?: Buffer, orientation = 1): Resolution | null {
  const found = rounded(exifResolution(exif ?? null) ?? structure.resolution);
  // A picture that lies on its side is turned, and its resolutions with it.
  return found && orientation >= 5 ? { x: found.y, y: found.x } : found;
}

function intoShared(data: Buffer, width: number, height: number, channels: Channels, depth: Depth): Raster {
  const samples: Samples = allocateSamples(width * height * channels, depth, true);
  new Uint8Array(samples.buffer).set(data);
  return { width, height, channels, depth, data: samples };
}

function greyWithAlpha(rgba: Raster): Raster {
  const data = allocateSamples(rgba.width * rgba.height * 2, rgba.depth, true);
  for (let i = 0, p = 0; i < data.length; i += 2, p += 4) {
    data[i] = rgba.data[p];
    data[i + 1] = rgba.data[p + 3];
  }
  return { ...rgba, channels: 2, data };
}

/**
 * JPEG quality (1…100) from the luma quantisation table, by inverting the scaling of the tables in ITU-T T.81 Annex K
 * that encoders of the common kind use. Null when there is no table or it follows no such scaling.
 */
export function jpegQuality(file: Buffer): number | null {
  for (let at = 2; at + 4 < file.length && file[at] === 0xff;) {
    const marker = file[at + 1];
    const length = file.readUInt16BE(at + 2);
    if (marker === 0xdb && (file[at + 4] & 15) === 0 && file[at + 4] >> 4 === 0 && at + 69 <= file.length) {
      // Sum of the standard luma table, which quality 50 uses as it is.
      const standard = 3688;
      let sum = 0;
      for (let i = 0; i < 64; i++) sum += file[at + 5 + i];
      const scale = (sum / standard) * 100;
      const quality = scale <= 100 ? (200 - scale) / 2 : 5000 / scale;
      return Math.max(1, Math.min(100, Math.round(quality)));
    }
    if (marker === 0xda) return null;
    at += 2 + length;
  }
  return null;
}

/** Name of an ICC profile from its description tag ('desc' or 'mluc' form). Source: ICC.1:2010. */
export function profileName(icc: Buffer | null): string | null {
  if (!icc || icc.length < 132) return null;
  const count = icc.readUInt32BE(128);
  for (let i = 0; i < Math.min(count, 100); i++) {
    const at = 132 + i * 12;
    if (at + 12 > icc.length) break;
    if (icc.toString('latin1', at, at + 4) !== 'desc') continue;
    const from = icc.readUInt32BE(at + 4);
    const kind = icc.toString('latin1', from, from + 4);
    if (kind === 'desc') {
      const n = icc.readUInt32BE(from + 8);
      return (
        icc
          .toString('latin1', from + 12, from + 12 + n)
          .replace(/\0.*$/s, '')
          .trim() || 'embedded'
      );
    }
    if (kind === 'mluc') {
      const n = icc.readUInt32BE(from + 20);
      const offset = icc.readUInt32BE(from + 24);
      const raw = Buffer.from(icc.subarray(from + offset, from + offset + n)).swap16();
      return raw.toString('utf16le').trim() || 'embedded';
    }
  }
  return 'embedded';
}

/** Share of pixels with any colour sample at the bottom, and at the top, of the range. */
function clipping(raster: Raster): { dark: number; light: number } {
  const { data, channels, depth } = raster;
  const colours = colourChannels(channels);
  const top = depth === 16 ? 65535 : 255;
  let dark = 0;
  let light = 0;
  const pixels = raster.width * raster.height;
  for (let i = 0, p = 0; i < pixels; i++, p += channels) {
    let low = false;
    let high = false;
    for (let c = 0; c < colours; c++) {
      if (data[p + c] === 0) low = true;
      else if (data[p + c] === top) high = true;
    }
    if (low) dark++;
    if (high) light++;
  }
  return { dark: dark / pixels, light: light / pixels };
}

/** The facts that the intake shows. */
export function factsOf(decoded: Decoded, path: string, fileName: string): Facts {
  const { raster } = decoded;
  const clip = clipping(raster);
  const head = decoded.format === 'jpeg' ? readFileSync(path).subarray(0, 65_536 * 4) : null;
  return {
    fileName: basename(fileName),
    format: decoded.format,
    bytes: statSync(path).size,
    width: raster.width,
    height: raster.height,
    channels: raster.channels,
    depth: raster.depth,
    mode: ['', 'grey', 'grey with alpha', 'RGB', 'RGB with alpha'][raster.channels],
    ppi: decoded.resolution?.x ?? null,
    ppiDown: decoded.resolution?.y ?? null,
    profile: profileName(decoded.icc),
    jpegQuality: head ? jpegQuality(head) : null,
    place: namesPlace(decoded),
    clippedDark: clip.dark,
    clippedLight: clip.light,
  };
}
