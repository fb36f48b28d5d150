import { readAccompanying } from '../../codec/decode.ts';
import type { Limits } from '../../codec/limits.ts';
import type { ExportFormat } from '../../contract/exports.ts';
import { extentOf, pictureOf } from '../../core/chain/chain.ts';
import type { StepSpec } from '../../core/chain/registry.ts';
import type { Raster } from '../../core/raster/raster.ts';
import type { ExportLayer } from './layers.ts';
import { FORMATS } from './registry.ts';

/** What a file for others is made of. */
export interface ExportInput {
  /** the source as it came */
  file: Uint8Array;
  original: Raster;
  /** what is set of the steps around the repairs, such as the canvas */
  steps: StepSpec[];
  layers: ExportLayer[];
  format: ExportFormat;
  /** of a JPEG, 1 to 100 */
  quality: number;
  /** where it was taken, if the file says so: goes along or not */
  place: 'keep' | 'leave';
  limits: Limits;
}

/** The patches that are seen, from the bottom up. */
const shownOf = (layers: readonly ExportLayer[]) =>
  layers
    .filter((layer) => layer.visible)
    .flatMap(({ repairs, opacity }) =>
      repairs.filter((r) => r.visible).map(({ patch, strength }) => ({ patch, strength: strength * opacity })),
    );

/** Produces a file for delivery. Pixels that no visible repair covers are the original's, bit for bit (PNG, TIFF). */
export async function exportPicture(input: ExportInput, progress: (done: number) => void): Promise<Uint8Array> {
  const { original, steps, layers, format, quality } = input;
  const canvas = extentOf(original, steps);
  const attach = { ...(await readAccompanying(Buffer.from(input.file), input.limits)), place: input.place };
  progress(0.2);
  const merged = () => pictureOf(original, steps, shownOf(layers)).read(canvas);
  return FORMATS[format]({ original, canvas, layers, merged, attach, quality, progress });
}
