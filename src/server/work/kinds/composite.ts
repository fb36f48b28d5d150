import { pictureOf } from '../../../core/chain/chain.ts';
import type { StepSpec } from '../../../core/chain/registry.ts';
import type { PatchLayer } from '../../../core/raster/patch.ts';
import { refreshPyramid } from '../../../core/raster/pyramid.ts';
import { paste, shiftBox, type Box, type Raster } from '../../../core/raster/raster.ts';
import type { Work } from '../work.ts';

interface Input {
  original: Raster;
  steps: StepSpec[];
  layers: PatchLayer[];
  /** px of the base */
  box: Box;
  target: Raster;
  /** where the corner of `target` lies, px of the base */
  corner: { x: number; y: number };
  pyramid: Raster[];
}

/** Reads a box of the finished picture into `target`, and refreshes the view of it. */
export const composite: Work<Input, null> = {
  native: true,
  run({ original, steps, layers, box, target, corner, pyramid }) {
    const at = shiftBox(box, -corner.x, -corner.y);
    paste(pictureOf(original, steps, layers).read(box), target, at);
    refreshPyramid(target, pyramid, at);
    return null;
  },
};
