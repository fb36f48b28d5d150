import type { GivenLayer } from '../../../codec/decoded.ts';
import { beneathOf } from '../../../core/chain/chain.ts';
import type { Patch, PatchLayer } from '../../../core/raster/patch.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import type { Piece } from '../../../core/repair/method.ts';
import { renderRepair } from '../../../core/repair/registry.ts';
import type { RepairSpec } from '../../../core/repair/spec.ts';
import { packPatch, sharePatch } from '../../images/pack.ts';
import type { Work } from '../work.ts';

interface Input {
  original: Raster;
  beneath: PatchLayer[];
  /** as JSON, which crosses to the thread in one piece however many strokes it holds */
  spec: string;
  given: GivenLayer[];
  /** all shares of what was done ahead */
  pieces?: Piece[];
}

/** Renders a repair over what lies beneath; also as it is stored. */
export const render: Work<Input, { patch: Patch; packed: Uint8Array; reason: string }> = {
  run({ original, beneath, spec: text, given, pieces }, progress) {
    const spec = JSON.parse(text) as RepairSpec;
    const below = beneathOf(original, beneath, spec, (index) => given[index]?.patch);
    const { patch, reason } = renderRepair(below, spec, progress, pieces);
    return { patch: sharePatch(patch), packed: packPatch(patch), reason };
  },
};
