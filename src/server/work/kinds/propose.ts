import type { FaultKind } from '../../../core/faults/kinds.ts';
import type { Point, Shape } from '../../../core/mask/shapes.ts';
import { advise as adviseFor, type Advice } from '../../../core/plan/advice.ts';
import { measureFault } from '../../../core/plan/cover.ts';
import { propose as proposalFor, type DonorPolicy, type Proposal } from '../../../core/plan/proposal.ts';
import { crop, type Raster } from '../../../core/raster/raster.ts';
import { solvePose, type PoseOptions, type SolvedPose } from '../../../core/repair/hand/solve-pose.ts';
import type { Work } from '../work.ts';

interface Marks {
  raster: Raster;
  marks: Array<{ kind: FaultKind; shapes: Shape[] }>;
}

/** What is proposed for marks, from the pixels around each. */
export const advise: Work<Marks, { advice: Advice[] }> = {
  run: ({ raster, marks }) => ({
    advice: marks.map(({ kind, shapes }) => {
      const { width } = measureFault(shapes, raster);
      return adviseFor(raster, kind, shapes, width);
    }),
  }),
};

interface Place {
  raster: Raster;
  kind: FaultKind;
  shapes: Shape[];
  /** where donors must not lie */
  avoid: Shape[];
  donorPolicy: DonorPolicy;
}

/** How a place is best treated by hand. */
export const propose: Work<Place, Proposal> = {
  run: ({ raster, kind, shapes, avoid, donorPolicy }) => proposalFor(raster, kind, shapes, avoid, donorPolicy),
};

interface Lifted {
  raster: Raster;
  piece: Shape[];
  rough: Point;
  options: PoseOptions;
}

/** How a lifted piece fits a place best. */
export const pose: Work<Lifted, SolvedPose> = {
  run: ({ raster, piece, rough, options }) =>
    solvePose({ width: raster.width, height: raster.height, read: (box) => crop(raster, box) }, piece, rough, options),
};
