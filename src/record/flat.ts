import sharp from 'sharp';
import { readAccompanying } from '../codec/decode.ts';
import { encode, type Attached } from '../codec/encode.ts';
import { tiffEnvelope } from '../codec/envelope.ts';
import type { Limits } from '../codec/limits.ts';
import { EXPORTED } from '../contract/exports.ts';
import type { HandOver } from '../contract/hand-over.ts';
import type { OpenRecord, RepairRecord } from '../contract/record.ts';
import { colourChannels, type Raster } from '../core/raster/raster.ts';

/** What a flat file is made of. */
interface Flat {
  /** the finished picture on its canvas */
  merged(): Raster;
  attach: Attached;
  settings: Pick<HandOver, 'quality' | 'webSide'>;
}

/** The finished picture alone. */
const alone =
  (format: 'png' | 'tiff' | 'jpeg') =>
  ({ merged, attach, settings }: Flat) =>
    encode(merged(), format, attach, settings.quality);

/** Radius and amounts of the sharpening for screens: it brings back what making smaller takes. Common practice, from memory. */
const SHARPEN = { sigma: 0.6, m1: 0.4, m2: 1.2 };

/** The sRGB profile as the encoder ships it. */
let srgb: Promise<Buffer | null> | undefined;
const screenProfile = () =>
  (srgb ??= sharp({ create: { width: 1, height: 1, channels: 3, background: '#808080' } })
    .withIccProfile('srgb')
    .jpeg()
    .toBuffer()
    .then((file) => sharp(file).metadata())
    .then(({ icc }) => icc ?? null));

/** The finished picture as it is shown on a screen: sRGB, at most so large, sharpened after that. */
const web = async ({ merged, attach, settings: { quality, webSide } }: Flat): Promise<Uint8Array> => {
  const picture = merged();
  const grey = colourChannels(picture.channels) === 1;
  const { data, info } = await sharp(tiffEnvelope(picture, { icc: attach.icc }), { limitInputPixels: false })
    .resize({ width: webSide, height: webSide, fit: 'inside', withoutEnlargement: true, kernel: 'lanczos3' })
    .flatten()
    .toColourspace(grey ? 'b-w' : 'srgb')
    .sharpen(SHARPEN)
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true });
  const { width, height, channels } = info;
  const small: Raster = { width, height, channels: channels, depth: 8, data: new Uint8Array(data) };
  // A printed size means nothing here.
  return encode(small, 'jpeg', { ...attach, icc: grey ? null : await screenProfile(), resolution: null }, quality);
};

/** Flat files, by their names: what a verification makes again. */
export const FLAT = { png: alone('png'), tiff: alone('tiff'), jpeg: alone('jpeg'), web };

/** What goes along with a picture, as its record says. */
export async function attachedTo(
  file: Uint8Array,
  record: Pick<OpenRecord, 'sourceType' | 'disclosure' | 'editor' | 'software' | 'made' | 'repairs'>,
  place: HandOver['place'],
  limits: Limits,
): Promise<Attached> {
  const came = await readAccompanying(Buffer.from(file), limits);
  const { sourceType, disclosure, editor, software, made } = record;
  // What nothing was done to says what it said.
  const told = record.repairs.length > 0 || sourceType !== null;
  // As of the last repair, so that the same state gives the same file however often it leaves.
  const when = record.repairs.reduce((last, { at }) => (at && at > last ? at : last), '') || made;
  return { ...came, place, ...(told && { provenance: { sourceType, disclosure, editor, software, when } }) };
}

/** Makes a flat file again from its finished picture, as a record says. @throws Error for files of other kinds */
export async function flatFile(
  picture: Raster,
  original: Uint8Array,
  record: RepairRecord,
  limits: Limits,
): Promise<Uint8Array> {
  const { format, place, quality, webSide } = record.delivered;
  if (!(format in FLAT)) throw new Error(`${EXPORTED[format].name} files are compared as a whole.`);
  const attach = await attachedTo(original, record, place, limits);
  return FLAT[format as keyof typeof FLAT]({ merged: () => picture, attach, settings: { quality, webSide } });
}
