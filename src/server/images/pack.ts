import { constants, deflateSync, inflateSync } from 'node:zlib';
import { allocateSamples, type Raster, type Samples } from '../../core/raster/raster.ts';
import type { Patch } from '../../core/raster/patch.ts';

const HEADER = 24;

/** A patch as it is stored: a fixed header, then its samples deflated (little endian). */
export function packPatch(patch: Patch): Uint8Array {
  const header = Buffer.alloc(HEADER);
  header.write('TSP1', 0, 'latin1');
  [patch.x, patch.y, patch.width, patch.height].forEach((v, i) => header.writeInt32LE(v, 4 + i * 4));
  header.writeUInt8(patch.channels, 20);
  header.writeUInt8(patch.depth, 21);
  const bytes = Buffer.from(patch.data.buffer, patch.data.byteOffset, patch.data.byteLength);
  return Buffer.concat([header, deflateSync(bytes, { level: 3, strategy: constants.Z_DEFAULT_STRATEGY })]);
}

/** @throws Error when the bytes are no packed patch */
export function unpackPatch(packed: Uint8Array): Patch {
  const file = Buffer.from(packed.buffer, packed.byteOffset, packed.byteLength);
  if (file.toString('latin1', 0, 4) !== 'TSP1') throw new Error('Not a packed patch.');
  const [x, y, width, height] = [4, 8, 12, 16].map((at) => file.readInt32LE(at));
  const channels = file.readUInt8(20) as 2 | 4;
  const depth = file.readUInt8(21) as 8 | 16;
  const bytes = inflateSync(file.subarray(HEADER));
  const data = allocateSamples(width * height * channels, depth);
  new Uint8Array(data.buffer).set(bytes);
  return { x, y, width, height, channels, depth, data };
}

/** The same patch in memory that threads can share. */
export function sharePatch<P extends Patch | Raster>(patch: P): P {
  const data: Samples = allocateSamples(patch.data.length, patch.depth, true);
  data.set(patch.data);
  return { ...patch, data };
}
