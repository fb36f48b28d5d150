import type { Patch } from '../../../core/raster/patch.ts';
import { screenPatch } from '../../images/screen.ts';
import type { Work } from '../work.ts';

/** A patch in screen colours, as PNG with alpha, for showing a try in place. */
export const patchView: Work<{ patch: Patch; icc: Uint8Array | null }, { bytes: Uint8Array }> = {
  native: true,
  run: async ({ patch, icc }) => ({ bytes: await screenPatch(patch, icc) }),
};
