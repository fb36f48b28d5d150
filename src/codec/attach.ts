import { crc32 } from 'node:zlib';
import { iptcForPng } from './iptc.ts';
import type { Resolution } from './structure.ts';

function pngChunk(type: string, body: Uint8Array): Buffer {
  const head = Buffer.alloc(8);
  head.writeUInt32BE(body.length, 0);
  head.write(type, 4, 'latin1');
  const tail = Buffer.alloc(4);
  tail.writeUInt32BE(crc32(Buffer.concat([head.subarray(4), body])) >>> 0, 0);
  return Buffer.concat([head, body, tail]);
}

/** A PNG without its chunks of a type, and with others after its header. Source: PNG 3rd edition. */
function pngWith(png: Buffer, without: string, chunks: Buffer[]): Buffer {
  const kept: Buffer[] = [];
  for (let at = 33; at + 12 <= png.length;) {
    const end = at + 12 + png.readUInt32BE(at);
    const type = png.toString('latin1', at + 4, at + 8);
    if (type === 'IDAT') {
      kept.push(png.subarray(at));
      break;
    }
    if (type !== without) kept.push(png.subarray(at, end));
    at = end;
  }
  return Buffer.concat([png.subarray(0, 33), ...chunks, ...kept]);
}

/** Puts an EXIF block into a PNG, after its header. Source: PNG 3rd edition, eXIf chunk. */
export function pngWithExif(png: Buffer, exif: Uint8Array): Buffer {
  const body = Buffer.from(exif).toString('latin1', 0, 4) === 'Exif' ? exif.subarray(6) : exif;
  return pngWith(png, 'eXIf', [pngChunk('eXIf', body)]);
}

/** Puts IPTC fields into a PNG, after its header. */
export const pngWithIptc = (png: Buffer, fields: Uint8Array): Buffer =>
  pngWith(png, 'none', [pngChunk('zTXt', iptcForPng(fields))]);

/** Sets the resolution of a PNG, or takes out what the encoder made up. Source: PNG 3rd edition, pHYs chunk. */
export function pngWithResolution(png: Buffer, resolution: Resolution | null): Buffer {
  if (!resolution) return pngWith(png, 'pHYs', []);
  const body = Buffer.alloc(9);
  body.writeUInt32BE(Math.round((resolution.x / 25.4) * 1000), 0);
  body.writeUInt32BE(Math.round((resolution.y / 25.4) * 1000), 4);
  body[8] = 1;
  return pngWith(png, 'pHYs', [pngChunk('pHYs', body)]);
}

/** Puts an EXIF block into a JPEG, as its first segment. Left out beyond the segment's 64 KiB. */
export function jpegWithExif(jpeg: Buffer, exif: Uint8Array): Buffer {
  const named =
    Buffer.from(exif).toString('latin1', 0, 4) === 'Exif'
      ? Buffer.from(exif)
      : Buffer.concat([Buffer.from('Exif\0\0', 'latin1'), exif]);
  if (named.length > 65_533) return jpeg;
  const head = Buffer.from([0xff, 0xe1, (named.length + 2) >> 8, (named.length + 2) & 255]);
  return Buffer.concat([jpeg.subarray(0, 2), head, named, jpeg.subarray(2)]);
}

/** Sets the resolution in the JFIF segment of a JPEG, which is made where there is none. Source: JFIF 1.02. */
export function jpegWithResolution(jpeg: Buffer, resolution: Resolution | null): Buffer {
  const segment = Buffer.from('\xff\xe0\x00\x10JFIF\x00\x01\x02\x00\x00\x01\x00\x01\x00\x00', 'latin1');
  if (resolution) {
    segment[11] = 1;
    segment.writeUInt16BE(Math.min(65_535, Math.max(1, Math.round(resolution.x))), 12);
    segment.writeUInt16BE(Math.min(65_535, Math.max(1, Math.round(resolution.y))), 14);
  }
  const old = jpeg[2] === 0xff && jpeg[3] === 0xe0 && jpeg.toString('latin1', 6, 10) === 'JFIF';
  return Buffer.concat([jpeg.subarray(0, 2), segment, jpeg.subarray(old ? 4 + jpeg.readUInt16BE(4) : 2)]);
}
