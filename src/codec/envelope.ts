import type { Raster } from '../core/raster/raster.ts';
import { colourChannels, hasAlpha } from '../core/raster/raster.ts';
import type { Resolution } from './structure.ts';

/** What travels with pixels. */
export interface Attachments {
  icc?: Uint8Array | null;
  xmp?: Uint8Array | null;
  resolution?: Resolution | null;
}

const SHORT = 3;
const LONG = 4;
const RATIONAL = 5;
const BYTE = 1;
const UNDEFINED = 7;

/**
 * Wraps pixels as an uncompressed little-endian TIFF 6.0 in memory. It is how pixels are handed to the encoder together
 * with their colour profile, without the profile being applied to them.
 * Source: TIFF Revision 6.0 (1992); tag 34675 for the profile, from ICC.1 Annex B.
 * @throws RangeError beyond 4 GiB
 */
export function tiffEnvelope(raster: Raster, { icc, xmp, resolution }: Attachments): Buffer {
  const { width, height, channels, depth } = raster;
  const pixels = Buffer.from(raster.data.buffer, raster.data.byteOffset, raster.data.byteLength);
  const entries: Array<{ tag: number; type: number; count: number; value: number | Buffer }> = [];
  const add = (tag: number, type: number, count: number, value: number | Buffer) =>
    entries.push({ tag, type, count, value });
  const shorts = (values: number[]) => {
    const b = Buffer.alloc(values.length * 2);
    values.forEach((v, i) => b.writeUInt16LE(v, i * 2));
    return b;
  };
  const rational = (value: number) => {
    const b = Buffer.alloc(8);
    b.writeUInt32LE(Math.round(value * 1000), 0);
    b.writeUInt32LE(1000, 4);
    return b;
  };
  const bits = shorts(new Array<number>(channels).fill(depth));
  add(256, LONG, 1, width);
  add(257, LONG, 1, height);
  add(258, SHORT, channels, channels === 1 ? depth : bits);
  add(259, SHORT, 1, 1);
  add(262, SHORT, 1, colourChannels(channels) === 1 ? 1 : 2);
  add(273, LONG, 1, 8);
  add(277, SHORT, 1, channels);
  add(278, LONG, 1, height);
  add(279, LONG, 1, pixels.length);
  if (resolution) {
    add(282, RATIONAL, 1, rational(resolution.x));
    add(283, RATIONAL, 1, rational(resolution.y));
  }
  add(284, SHORT, 1, 1);
  if (resolution) add(296, SHORT, 1, 2);
  if (hasAlpha(channels)) add(338, SHORT, 1, 2);
  if (xmp) add(700, BYTE, xmp.length, Buffer.from(xmp));
  if (icc) add(34675, UNDEFINED, icc.length, Buffer.from(icc));

  const even = (n: number) => n + (n & 1);
  const start = even(8 + pixels.length);
  const table = Buffer.alloc(2 + entries.length * 12 + 4);
  const extra: Buffer[] = [];
  let next = start + table.length;
  table.writeUInt16LE(entries.length, 0);
  entries.forEach(({ tag, type, count, value }, i) => {
    const at = 2 + i * 12;
    table.writeUInt16LE(tag, at);
    table.writeUInt16LE(type, at + 2);
    table.writeUInt32LE(count, at + 4);
    if (typeof value === 'number') {
      if (type === SHORT) table.writeUInt16LE(value, at + 8);
      else table.writeUInt32LE(value, at + 8);
    } else if (value.length <= 4) value.copy(table, at + 8);
    else {
      table.writeUInt32LE(next, at + 8);
      extra.push(value);
      if (value.length & 1) extra.push(Buffer.alloc(1));
      next += even(value.length);
    }
  });
  const header = Buffer.alloc(8);
  header.write('II', 0, 'latin1');
  header.writeUInt16LE(42, 2);
  header.writeUInt32LE(start, 4);
  const gap = Buffer.alloc(start - 8 - pixels.length);
  return Buffer.concat([header, pixels, gap, table, ...extra]);
}
