import { subjectEdge as edgeOf, type SubjectMarks } from '../../../core/find/subject.ts';
import { proposeSubject } from '../../../core/find/subject-proposal.ts';
import type { Shape } from '../../../core/mask/shapes.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import type { Work } from '../work.ts';

/** The true outline of a subject that was roughly marked. */
export const subjectEdge: Work<{ raster: Raster; marks: SubjectMarks }, { shapes: Shape[] }> = {
  run: ({ raster, marks }) => ({ shapes: edgeOf(raster, marks) }),
};

/** What a picture is likely to be about. */
export const subjectProposal: Work<{ raster: Raster; avoid: Shape[] }, { shapes: Shape[] | null }> = {
  run: ({ raster, avoid }) => ({ shapes: proposeSubject(raster, avoid) }),
};
