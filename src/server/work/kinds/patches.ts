import { revealPatch, type RevealMark } from '../../../core/mask/reveal.ts';
import type { Patch } from '../../../core/raster/patch.ts';
import { sharePatch, unpackPatch } from '../../images/pack.ts';
import type { Work } from '../work.ts';

/** Hides and shows parts of a patch; marks as JSON. */
export const reveal: Work<{ patch: Patch; marks: string }, { patch: Patch }> = {
  run: ({ patch, marks }) => ({ patch: sharePatch(revealPatch(patch, JSON.parse(marks) as RevealMark[])) }),
};

/** A patch as it was stored. */
export const unpack: Work<{ packed: Uint8Array }, { patch: Patch }> = {
  run: ({ packed }) => ({ patch: sharePatch(unpackPatch(packed)) }),
};
