import { closeSync, fstatSync, openSync, readSync } from 'node:fs';

/** Bytes of a file, given by path or contents, read piece by piece. */
export interface ByteSource {
  length: number;
  /** Up to `count` bytes from `at` on; fewer at the end. */
  read(at: number, count: number): Buffer;
}

/** Works with the bytes of a file without reading all of them. */
export function withBytes<T>(source: string | Buffer, work: (bytes: ByteSource) => T): T {
  if (typeof source !== 'string')
    return work({ length: source.length, read: (at, count) => source.subarray(at, at + count) });
  const file = openSync(source, 'r');
  try {
    const read = (at: number, count: number) => {
      const piece = Buffer.alloc(count);
      return piece.subarray(0, readSync(file, piece, 0, count, at));
    };
    return work({ length: fstatSync(file).size, read });
  } finally {
    closeSync(file);
  }
}
