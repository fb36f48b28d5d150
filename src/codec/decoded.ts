import type { Patch } from '../core/raster/patch.ts';
import type { Raster } from '../core/raster/raster.ts';
import type { Resolution } from './structure.ts';

/** A layer that came with a file, above its original. */
export interface GivenLayer {
  name: string;
  opacity: number;
  visible: boolean;
  patch: Patch;
}

/** What a file says beside its pixels, and that goes on into files for delivery. */
export type Accompanying = Pick<Decoded, 'icc' | 'exif' | 'xmp' | 'iptc' | 'resolution'>;

/** A decoded file: pixels in the file's own colour space, upright, in shared memory. */
export interface Decoded {
  raster: Raster;
  icc: Buffer | null;
  exif: Buffer | null;
  xmp: Buffer | null;
  /** bare IPTC fields */
  iptc?: Buffer | null;
  /** null where the file names none */
  resolution: Resolution | null;
  format: string;
  /** layers that came with it, from the bottom up */
  layers?: GivenLayer[];
}
