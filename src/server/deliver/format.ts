import type { Attachments } from '../../codec/envelope.ts';
import type { Box, Raster } from '../../core/raster/raster.ts';
import type { ExportLayer } from './layers.ts';

/** What a file for others is made from. */
export interface Delivered {
  original: Raster;
  /** px of the base */
  canvas: Box;
  /** from the bottom up */
  layers: ExportLayer[];
  /** the finished picture on its canvas */
  merged(): Raster;
  /** what goes along: profile, resolution, metadata */
  attach: Attachments;
  /** of a JPEG, 1 to 100 */
  quality: number;
  progress(done: number): void;
}

/** Makes one kind of file. A file each in `formats/`; a line in the registry, and one in `contract/exports.ts`. */
export type Format = (picture: Delivered) => Promise<Uint8Array> | Uint8Array;
