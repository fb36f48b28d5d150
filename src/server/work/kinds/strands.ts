import type { Find } from '../../../core/find/find.ts';
import { findClips } from '../../../core/find/strand/clips.ts';
import { completeMesh } from '../../../core/find/strand/mesh/complete-mesh.ts';
import { traceStrand } from '../../../core/find/strand/strand.ts';
import type { TracedStrand } from '../../../core/find/strand/traced-strand.ts';
import type { Point } from '../../../core/mask/shapes.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import type { Work } from '../work.ts';

/** Follows a strand through points set on it. */
export const trace: Work<{ raster: Raster; points: Point[] }, { strand: TracedStrand }> = {
  run: ({ raster, points }) => ({ strand: traceStrand(raster, points) }),
};

interface Traced {
  raster: Raster;
  strands: TracedStrand[];
}

/** Share of the time that completing a mesh takes; the rest goes into its clips. */
const COMPLETING = 0.6;

/** Finds the other strands of a mesh, and clips and knots on them. */
export const mesh: Work<Traced, { strands: TracedStrand[]; clips: Find[] }> = {
  run({ raster, strands }, progress) {
    const all = completeMesh(raster, strands, (done) => progress(COMPLETING * done));
    return { strands: all, clips: findClips(raster, all, (done) => progress(COMPLETING + (1 - COMPLETING) * done)) };
  },
};
