import { subjectEdge as edgeOf, type SubjectMarks } from '../../../core/find/subject.ts';
import type { Shape } from '../../../core/mask/shapes.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import type { Work } from '../work.ts';

/** The true outline of a subject that was roughly marked. */
export const subjectEdge: Work<{ raster: Raster; marks: SubjectMarks }, { shapes: Shape[] }> = {
  run: ({ raster, marks }) => ({ shapes: edgeOf(raster, marks) }),
};
