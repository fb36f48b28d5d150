import { changesOn, type PatchLayer } from '../../../core/raster/patch.ts';
import { boxOf, type Box, type Raster } from '../../../core/raster/raster.ts';
import { screenTile } from '../../images/screen.ts';
import type { Work } from '../work.ts';

interface Input {
  kind: Pick<Raster, 'channels' | 'depth'>;
  /** px of the level */
  box: Box;
  level: number;
  layers: PatchLayer[];
  icc: Uint8Array | null;
}

/** One tile of patches alone on grey. */
export const changes: Work<Input, { bytes: Uint8Array; type: string }> = {
  native: true,
  run: ({ kind, box, level, layers, icc }) =>
    screenTile(changesOn(kind, box, level, layers), undefined, boxOf(box), icc, true),
};
