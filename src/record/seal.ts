import { createHash } from 'node:crypto';
import type { OpenRecord, RepairRecord } from '../contract/record.ts';
import type { Raster } from '../core/raster/raster.ts';

export const sha256 = (bytes: Uint8Array | string): string => createHash('sha256').update(bytes).digest('hex');

/** Names a picture's samples: its size and form, then all of them by rows, 16-bit ones little-endian. */
export function pixelsHash({ width, height, channels, depth, data }: Raster): string {
  const bytes = Buffer.from(data.buffer, data.byteOffset, data.byteLength);
  return createHash('sha256').update(`${width}x${height}x${channels}x${depth}\n`).update(bytes).digest('hex');
}

/** JSON with keys in the order of the alphabet, so that one content has one text. After RFC 8785, from memory. */
export function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map((v) => canonical(v === undefined ? null : v)).join(',')}]`;
  if (value === null || typeof value !== 'object') return JSON.stringify(value);
  const entries = Object.entries(value as Record<string, unknown>).filter(([, v]) => v !== undefined);
  entries.sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${entries.map(([k, v]) => `${JSON.stringify(k)}:${canonical(v)}`).join(',')}}`;
}

/** The seal that belongs on a record's content: a change of it shows, unless somebody seals it again. */
export function sealOf({ seal: _, ...rest }: RepairRecord | (Omit<RepairRecord, 'seal'> & { seal?: string })): string {
  return sha256(canonical(rest));
}

/** A record that is complete. */
export function sealed(open: OpenRecord, delivered: RepairRecord['delivered']): RepairRecord {
  const record = { ...open, delivered };
  return { ...record, seal: sealOf(record) };
}
