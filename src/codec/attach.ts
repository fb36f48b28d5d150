import { crc32 } from 'node:zlib';

function pngChunk(type: string, body: Uint8Array): Buffer {
  const head = Buffer.alloc(8);
  head.writeUInt32BE(body.length, 0);
  head.write(type, 4, 'latin1');
  const tail = Buffer.alloc(4);
  tail.writeUInt32BE(crc32(Buffer.concat([head.subarray(4), body])) >>> 0, 0);
  return Buffer.concat([head, body, tail]);
}

/** The EXIF block with its orientation set to upright, since exported pixels are upright. Source: Exif 2.3, tag 0x0112. */
export function uprightExif(exif: Uint8Array): Buffer {
  const out = Buffer.from(exif);
  const start = out.toString('latin1', 0, 4) === 'Exif' ? 6 : 0;
  if (out.length < start + 14) return out;
  const little = out.toString('latin1', start, start + 2) === 'II';
  const u16 = (at: number) => (little ? out.readUInt16LE(at) : out.readUInt16BE(at));
  const u32 = (at: number) => (little ? out.readUInt32LE(at) : out.readUInt32BE(at));
  const table = start + u32(start + 4);
  if (table + 2 > out.length) return out;
  for (let i = 0; i < u16(table); i++) {
    const at = table + 2 + i * 12;
    if (at + 12 > out.length) break;
    if (u16(at) !== 0x0112) continue;
    if (little) out.writeUInt16LE(1, at + 8);
    else out.writeUInt16BE(1, at + 8);
  }
  return out;
}

/** Puts an EXIF block into a PNG, after its header. Source: PNG 3rd edition, eXIf chunk. */
export function pngWithExif(png: Buffer, exif: Uint8Array): Buffer {
  const body = Buffer.from(exif).toString('latin1', 0, 4) === 'Exif' ? exif.subarray(6) : exif;
  return Buffer.concat([png.subarray(0, 33), pngChunk('eXIf', body), png.subarray(33)]);
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
