import type { PatchLayer } from '../../core/raster/patch.ts';

/** A named layer for export, from the bottom up. */
export interface ExportLayer {
  name: string;
  opacity: number;
  visible: boolean;
  repairs: Array<PatchLayer & { visible: boolean; name: string; id: string }>;
}
