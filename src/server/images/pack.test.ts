import type { Patch } from '../../core/raster/patch.ts';
import { packPatch, sharePatch, unpackPatch } from './pack.ts';

const patchOf = (channels: 2 | 4, depth: 8 | 16): Patch => {
  const [width, height] = [7, 5];
  const length = width * height * channels;
  const data = depth === 8 ? new Uint8Array(length) : new Uint16Array(length);
  data.forEach((_, i) => (data[i] = (i * 7919) % (depth === 8 ? 256 : 65536)));
  return { x: -12, y: 300_000, width, height, channels, depth, data };
};

test.each([
  [2, 8],
  [2, 16],
  [4, 8],
  [4, 16],
] as const)('a patch of %i channels and %i bit comes back as it was, wherever it lies', (channels, depth) => {
  const patch = patchOf(channels, depth);
  expect(unpackPatch(packPatch(patch))).toEqual(patch);
});

test('it is read from the middle of a larger block too, as files are', () => {
  const packed = packPatch(patchOf(4, 16));
  const block = new Uint8Array(packed.length + 9);
  block.set(packed, 5);
  expect(unpackPatch(block.subarray(5, 5 + packed.length))).toEqual(patchOf(4, 16));
});

test('what is no patch, or is cut off, is not taken for one', () => {
  const packed = packPatch(patchOf(4, 8));
  expect(() => unpackPatch(new Uint8Array(40))).toThrow('Not a packed patch.');
  expect(() => unpackPatch(packed.subarray(0, packed.length - 6))).toThrow();
});

test('shared, it lies in memory that threads can read, and the first is left alone', () => {
  const patch = patchOf(4, 16);
  const shared = sharePatch(patch);
  expect(shared).toEqual(patch);
  expect(shared.data.buffer).toBeInstanceOf(SharedArrayBuffer);
  shared.data[0] = 9;
  expect(patch.data[0]).toBe(0);
});
