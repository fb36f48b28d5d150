import { deflateSync } from 'node:zlib';

/** Name of the JPEG segment that holds resource blocks, with the zero that ends it. */
const SEGMENT = Buffer.from('50686f746f73686f7020332e3000', 'hex');
const RESOURCE = Buffer.from('8BIM', 'latin1');
const IIM_RESOURCE = 0x0404;
/** Every field of the record begins with this. */
const FIELD = 0x1c;

/**
 * The bare IPTC fields of what a file holds of them: as they are, or within the resources of a JPEG's segment.
 * Source: IPTC-NAA Information Interchange Model 4, chapter 3 (field marker 0x1C); resource blocks from memory.
 */
export function iptcFields(block: Uint8Array | null | undefined): Buffer | null {
  if (!block?.length) return null;
  const bytes = Buffer.from(block);
  if (bytes[0] === FIELD) return bytes;
  let at = bytes.subarray(0, SEGMENT.length).equals(SEGMENT) ? SEGMENT.length : 0;
  while (at + 12 <= bytes.length && bytes.subarray(at, at + 4).equals(RESOURCE)) {
    const id = bytes.readUInt16BE(at + 4);
    // A name with its length before it, even in all.
    const name = at + 6 + ((bytes[at + 6] + 2) & ~1);
    if (name + 4 > bytes.length) return null;
    const length = bytes.readUInt32BE(name);
    const from = name + 4;
    if (id === IIM_RESOURCE) return bytes.subarray(from, from + length);
    at = from + length + (length & 1);
  }
  return null;
}

/** Puts IPTC fields into a JPEG, after its first segment. Left out beyond the segment's 64 KiB. */
export function jpegWithIptc(jpeg: Buffer, fields: Uint8Array): Buffer {
  const head = Buffer.concat([SEGMENT, RESOURCE, Buffer.from([IIM_RESOURCE >> 8, IIM_RESOURCE & 255, 0, 0])]);
  const length = Buffer.alloc(4);
  length.writeUInt32BE(fields.length);
  const body = Buffer.concat([head, length, fields, Buffer.alloc(fields.length & 1)]);
  if (body.length > 65_533) return jpeg;
  const marker = Buffer.from([0xff, 0xed, (body.length + 2) >> 8, (body.length + 2) & 255]);
  const at = jpeg[2] === 0xff && jpeg[3] === 0xe0 ? 4 + jpeg.readUInt16BE(4) : 2;
  return Buffer.concat([jpeg.subarray(0, at), marker, body, jpeg.subarray(at)]);
}

/** IPTC fields as the body of a PNG's compressed text chunk, in the form that readers look for; common practice, from memory. */
export function iptcForPng(fields: Uint8Array): Buffer {
  const hex = Buffer.from(fields)
    .toString('hex')
    .replace(/(.{72})/g, '$1\n');
  const text = `\niptc\n${String(fields.length).padStart(8)}\n${hex}\n`;
  return Buffer.concat([Buffer.from('Raw profile type iptc\0\0', 'latin1'), deflateSync(Buffer.from(text, 'latin1'))]);
}
