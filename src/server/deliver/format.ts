import type { Attached } from '../../codec/encode.ts';
import type { HandOver } from '../../contract/hand-over.ts';
import type { OpenRecord } from '../../contract/record.ts';
import type { Box, Raster } from '../../core/raster/raster.ts';
import type { ExportLayer } from './layers.ts';

/** What a file for others is made from. */
export interface Delivered {
  original: Raster;
  /** px of the base */
  canvas: Box;
  /** from the bottom up */
  layers: ExportLayer[];
  /** the finished picture as it leaves, levelled and cut */
  merged(): Raster;
  /** the finished picture on its canvas, as layers lie on it */
  onCanvas(): Raster;
  /** what goes along: profile, resolution, metadata */
  attach: Attached;
  /** what was done */
  record: OpenRecord;
  /** quality of a JPEG, size for the web */
  settings: Pick<HandOver, 'quality' | 'webSide'>;
  progress(done: number): void;
}

/** Makes one kind of file. A file each in `formats/`; a line in the registry, and one in `contract/exports.ts`. */
export type Format = (picture: Delivered) => Promise<Uint8Array> | Uint8Array;
