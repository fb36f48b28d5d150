import type { GivenLayer } from '../../../codec/decoded.ts';
import { beneathOf } from '../../../core/chain/chain.ts';
import type { Sign } from '../../../core/check/finding.ts';
import { signsOfRepair } from '../../../core/check/repair.ts';
import type { Patch, PatchLayer } from '../../../core/raster/patch.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import type { RepairSpec } from '../../../core/repair/spec.ts';
import type { Work } from '../work.ts';

interface Input {
  original: Raster;
  beneath: PatchLayer[];
  /** as JSON, which crosses to the thread in one piece however many strokes it holds */
  spec: string;
  given: GivenLayer[];
  patch: Patch;
}

/** Measures what a rendered repair gives away. */
export const check: Work<Input, { signs: Sign[] }> = {
  run({ original, beneath, spec: text, given, patch }) {
    const spec = JSON.parse(text) as RepairSpec;
    const below = beneathOf(original, beneath, spec, (index) => given[index]?.patch);
    return { signs: signsOfRepair(below, spec, patch) };
  },
};
