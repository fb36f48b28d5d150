import { beneathOf } from '../../../core/chain/chain.ts';
import type { PatchLayer } from '../../../core/raster/patch.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import type { Piece, Share } from '../../../core/repair/method.ts';
import { renderAhead } from '../../../core/repair/registry.ts';
import type { RepairSpec } from '../../../core/repair/spec.ts';
import { sharePatch } from '../../images/pack.ts';
import type { Work } from '../work.ts';

interface Input {
  original: Raster;
  beneath: PatchLayer[];
  /** as JSON */
  spec: string;
  share: Share;
}

/** One share of what can be done ahead of a rendering. */
export const ahead: Work<Input, { pieces: Piece[] }> = {
  run({ original, beneath, spec: text, share }, progress) {
    const spec = JSON.parse(text) as RepairSpec;
    const pieces = renderAhead(beneathOf(original, beneath, spec), spec, share, progress);
    return { pieces: pieces.map((p) => ({ ...p, raster: sharePatch(p.raster) })) };
  },
};
