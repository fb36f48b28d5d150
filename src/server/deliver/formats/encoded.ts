import { encode } from '../../../codec/encode.ts';
import type { Format } from '../format.ts';

/** The finished picture alone. */
const alone =
  (format: 'png' | 'tiff' | 'jpeg'): Format =>
  ({ merged, attach, quality }) =>
    encode(merged(), format, attach, quality);

export const png = alone('png');
export const tiff = alone('tiff');
export const jpeg = alone('jpeg');
