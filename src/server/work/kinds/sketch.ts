import { beneathOf } from '../../../core/chain/chain.ts';
import type { Patch, PatchLayer } from '../../../core/raster/patch.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import { sketchRepair } from '../../../core/repair/registry.ts';
import type { RepairSpec } from '../../../core/repair/spec.ts';
import { sharePatch } from '../../images/pack.ts';
import type { Work } from '../work.ts';

interface Input {
  original: Raster;
  beneath: PatchLayer[];
  /** as JSON */
  spec: string;
}

/** How a repair will about look; null where that is not worth it. */
export const sketch: Work<Input, { patch: Patch | null }> = {
  run({ original, beneath, spec: text }) {
    const spec = JSON.parse(text) as RepairSpec;
    const patch = sketchRepair(beneathOf(original, beneath, spec), spec);
    return { patch: patch && sharePatch(patch) };
  },
};
