import { existsSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { extname } from 'node:path';
import sharp from 'sharp';
import { decodeFile } from '../codec/decode.ts';
import type { Decoded } from '../codec/decoded.ts';
import { limitsFrom } from '../codec/limits.ts';
import { Refused } from '../contract/refused.ts';
import { colourChannels, type Raster } from '../core/raster/raster.ts';
import { UsageError } from './usage.ts';

/** Reads the file that an option names. @throws UsageError */
export async function bytesOf(path: string | undefined, option: string, usage = ''): Promise<Buffer> {
  if (path === undefined) throw new UsageError(`--${option} is missing. ${usage}`);
  try {
    return await readFile(path);
  } catch (error) {
    throw new UsageError(`--${option} ${path} cannot be read: ${(error as Error).message}`);
  }
}

/** Reads the picture that an option names. @throws UsageError */
export async function read(path: string | undefined, option: string): Promise<Decoded> {
  if (!path) throw new UsageError(`--${option} is missing. Give the path of a file.`);
  if (!existsSync(path)) throw new UsageError(`--${option}: there is no file ${path}.`);
  try {
    return await decodeFile(path, limitsFrom(process.env));
  } catch (error) {
    if (error instanceof Refused) throw new UsageError(`--${option} ${path}: ${error.message}`);
    throw error;
  }
}

const FORMATS: Record<string, 'png' | 'tiff' | 'jpeg'> = {
  '.png': 'png',
  '.tif': 'tiff',
  '.tiff': 'tiff',
  '.jpg': 'jpeg',
  '.jpeg': 'jpeg',
};

/** The kind of file that the ending of `--out` asks for. @throws UsageError */
export function formatOf(path: string | undefined): 'png' | 'tiff' | 'jpeg' {
  if (!path) throw new UsageError('--out is missing. Give the path of the file to write.');
  const format = FORMATS[extname(path).toLowerCase()];
  if (!format) throw new UsageError('--out must end in .png, .tif or .jpg.');
  return format;
}

/** @throws UsageError unless a mask's path, where there is one, ends in .png */
export function maskPath(path: string | undefined, option = 'mask'): void {
  if (path !== undefined && extname(path).toLowerCase() !== '.png')
    throw new UsageError(`--${option} must end in .png.`);
}

/** 1 where a mask picture is not black (or, if it has alpha, not black and not clear). */
export function maskOf(image: Raster): Uint8Array {
  const out = new Uint8Array(image.width * image.height);
  const colours = colourChannels(image.channels);
  for (let i = 0; i < out.length; i++) {
    for (let c = 0; c < colours; c++) if (image.data[i * image.channels + c]) out[i] = 1;
    if (colours !== image.channels && !image.data[i * image.channels + colours]) out[i] = 0;
  }
  return out;
}

/** @throws UsageError unless a mask is as large as the picture */
export function sameSize(mask: Raster, picture: Raster, option: string): void {
  if (mask.width === picture.width && mask.height === picture.height) return;
  throw new UsageError(
    `--${option} has ${mask.width} × ${mask.height} px, the picture ${picture.width} × ${picture.height}. They must be the same size.`,
  );
}

/** Writes a mask as an 8-bit grey PNG: 255 covered, 0 not. */
export async function writeMask(path: string, mask: Uint8Array, width: number, height: number): Promise<void> {
  const bytes = await sharp(Buffer.from(mask.buffer, mask.byteOffset, mask.byteLength), {
    raw: { width, height, channels: 1 },
  })
    .toColourspace('b-w')
    .png()
    .toBuffer();
  await writeFile(path, bytes);
}
