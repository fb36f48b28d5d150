import type { Patch } from '../../core/raster/patch.ts';

/** A patch as it lies on the picture. */
export interface PatchLayer {
  patch: Patch;
  strength: number;
}

/** A named layer for export, from the bottom up. */
export interface ExportLayer {
  name: string;
  opacity: number;
  visible: boolean;
  repairs: Array<PatchLayer & { visible: boolean; name: string }>;
}
