import { baseOf, deliveredOf } from '../../../core/chain/chain.ts';
import type { StepSpec } from '../../../core/chain/registry.ts';
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

/** Which share of the picture as it leaves nobody put anything on. */
export const gaps: Work<Omit<Input, 'box'> & { steps: StepSpec[] }, { share: number }> = {
  run({ original, steps, layers }) {
    const delivered = deliveredOf(original, steps, layers);
    const found = delivered.gap(delivered.extent);
    return { share: found ? found.reduce((sum, v) => sum + v, 0) / found.length : 0 };
  },
};
