import { baseOf } from '../../../core/chain/chain.ts';
import type { PatchLayer } from '../../../core/raster/patch.ts';
import type { Box, Raster } from '../../../core/raster/raster.ts';
import type { Work } from '../work.ts';

interface Input {
  original: Raster;
  box: Box;
  layers: PatchLayer[];
}

/** The base with patches laid on, in a box. */
export const region: Work<Input, { raster: Raster }> = {
  run: ({ original, box, layers }) => ({ raster: baseOf(original, [], layers).read(box) }),
};

/** How many pixels of a box nobody put anything on. */
export const gaps: Work<Input, { pixels: number }> = {
  run({ original, box, layers }) {
    const found = baseOf(original, [], layers).gap(box);
    return { pixels: found ? found.reduce((sum, v) => sum + v, 0) : 0 };
  },
};
