import { withBytes, type ByteSource } from './bytes.ts';
import { Directories, type Directory } from './directory.ts';

/** Pixels an inch, across and down. */
export interface Resolution {
  x: number;
  y: number;
}

const round = (v: number) => Math.round(v * 100) / 100;
/** A resolution to two places, as it is told and kept. */
export const rounded = (r: Resolution | null): Resolution | null => r && { x: round(r.x), y: round(r.y) };

/** What the structure of a file tells that its decoder does not. */
export interface Structure {
  /** pictures of full size in it */
  pages: number;
  animated: boolean;
  /** alpha is multiplied into the colours */
  premultiplied: boolean;
  /** colours are not kept as grey, RGB or what is turned into it, but as CIELAB */
  lab: boolean;
  /** null where the file names none */
  resolution: Resolution | null;
}

const INCH_MM = 25.4;
const PLAIN: Structure = { pages: 1, animated: false, premultiplied: false, lab: false, resolution: null };

/** Pixels an inch beyond which a file's figures mean nothing. */
const [LEAST, MOST] = [0.1, 200_000];

/** A resolution in pixels an inch, from figures in another unit; null where they cannot be meant. */
export function usable(x: number | null, y: number | null, unit: number): Resolution | null {
  const [across, down] = [(x ?? 0) * unit, (y ?? 0) * unit];
  return Math.min(across, down) >= LEAST && Math.max(across, down) <= MOST ? { x: across, y: down } : null;
}

/** Resolution of a directory. Source: TIFF Revision 6.0, tags 282, 283, 296; EXIF uses the same. */
function directoryResolution(d: Directories, directory: Directory): Resolution | null {
  const unit = d.number(directory, 296) ?? 2;
  if (unit !== 2 && unit !== 3) return null;
  return usable(d.number(directory, 282), d.number(directory, 283), unit === 3 ? 2.54 : 1);
}

/** The resolution that an EXIF block names; it may begin with its six-byte name. */
export function exifResolution(exif: Buffer | null): Resolution | null {
  if (!exif) return null;
  const start = exif.toString('latin1', 0, 4) === 'Exif' ? 6 : 0;
  return withBytes(exif, (bytes) => {
    const d = Directories.open(bytes, start);
    return d && directoryResolution(d, d.read(d.first()));
  });
}

/** Source: PNG 3rd edition (pHYs: pixels a metre; acTL: an animation). */
function ofPng(bytes: ByteSource): Structure {
  const out = { ...PLAIN };
  for (let at = 8, n = 0; at + 8 <= bytes.length && n < 10_000; n++) {
    const head = bytes.read(at, 24);
    if (head.length < 8) break;
    const length = head.readUInt32BE(0);
    const type = head.toString('latin1', 4, 8);
    if (type === 'IDAT' || type === 'IEND') break;
    if (type === 'acTL' && head.length >= 12) out.animated = head.readUInt32BE(8) > 1;
    if (type === 'pHYs' && head.length >= 17 && head[16] === 1)
      out.resolution = usable(head.readUInt32BE(8), head.readUInt32BE(12), INCH_MM / 1000);
    at += 12 + length;
  }
  return out;
}

/** Source: JPEG File Interchange Format 1.02 (units 1: an inch, 2: a centimetre). */
function ofJpeg(bytes: ByteSource): Structure {
  for (let at = 2, n = 0; n < 1000; n++) {
    const head = bytes.read(at, 18);
    if (head.length < 18 || head[0] !== 0xff || head[1] === 0xda) break;
    if (head[1] === 0xe0 && head.toString('latin1', 4, 8) === 'JFIF') {
      const unit = head[11] === 1 ? 1 : head[11] === 2 ? 2.54 : 0;
      return { ...PLAIN, resolution: unit ? usable(head.readUInt16BE(12), head.readUInt16BE(14), unit) : null };
    }
    at += 2 + head.readUInt16BE(2);
  }
  return PLAIN;
}

/** Source: TIFF Revision 6.0 (tag 254: 1 is a smaller copy of another page, 4 a mask; tag 338: 1 is alpha multiplied in; tag 262: 8 to 10 are CIELAB). */
function ofTiff(bytes: ByteSource): Structure {
  const d = Directories.open(bytes);
  const all = d?.all() ?? [];
  if (!d || !all.length) return PLAIN;
  const whole = all.filter((page) => ((d.number(page, 254) ?? 0) & 5) === 0);
  return {
    pages: Math.max(1, whole.length),
    animated: false,
    premultiplied: d.number(all[0], 338) === 1,
    lab: [8, 9, 10].includes(d.number(all[0], 262) ?? 0),
    resolution: directoryResolution(d, all[0]),
  };
}

/** Looks at the structure of a file, given by path or contents. */
export const structureOf = (source: string | Buffer): Structure =>
  withBytes(source, (bytes) => {
    const head = bytes.read(0, 8);
    if (head.toString('latin1', 1, 4) === 'PNG') return ofPng(bytes);
    if (head[0] === 0xff && head[1] === 0xd8) return ofJpeg(bytes);
    return ofTiff(bytes);
  });
