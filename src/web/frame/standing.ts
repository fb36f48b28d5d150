import type { PictureState } from '../../contract/api.ts';
import { boundsWithin } from '../../core/mask/shapes.ts';
import { contains, isEmpty, type Box } from '../../core/raster/raster.ts';
import type { StretchSpec, StretchWay } from '../../core/repair/spec.ts';
import { alike } from '../../document/operations.ts';
import type { DrawnOver, Way } from './ways.ts';

/** Degrees that a picture is turned as its steps stand. */
export const turnedBy = (state: PictureState): number =>
  state.document.steps.map((s) => s.spec).find((s) => s.step === 'turn')?.degrees ?? 0;

/** The canvas that a picture stands on, where it is not all of it and it is not turned; null otherwise. */
export function standingCanvas({ document: { steps } }: PictureState): Box | null {
  const specs = steps.map((s) => s.spec);
  const canvas = specs.find((s) => s.step === 'canvas');
  return canvas && specs.length === 1 ? canvas.box : null;
}

/** How the background is drawn out as it stands; null where it is not. */
export function stretchSpec({ document: { repairs } }: PictureState): StretchSpec | undefined {
  const specs = repairs.flatMap((r) => r.tries.filter((t) => t.id === r.chosen).map((t) => t.spec));
  return specs.find((s) => s.method === 'stretch');
}

/** How much of a canvas was reached by drawing out. */
export function drawnOf(spec: StretchSpec | undefined, canvas: Box | null): DrawnOver {
  if (!spec) return null;
  return canvas && !contains(spec.onto, canvas) ? 'some' : 'all';
}

/** Whether something that a canvas adds is still to be filled. */
const isLacking = ({ document: { faults } }: PictureState, canvas: Box): boolean =>
  faults.some((f) => f.kind === 'gap' && f.state === 'open' && !isEmpty(boundsWithin(f.shapes, canvas)));

/** Whether a picture is framed like this already, and stands by this way: nothing of it is left to be made. */
export function standsBy(
  state: PictureState,
  way: Way,
  drawn: DrawnOver,
  by: StretchWay,
): { framed: boolean; stands: boolean } {
  const steps = [
    way.set.canvas && { step: 'canvas', box: way.set.canvas },
    way.set.turn && { step: 'turn', ...way.set.turn },
  ];
  const framed = alike(
    state.document.steps.map((s) => s.spec),
    steps.filter((s) => s !== null),
  );
  if (!framed || way.way === 'crop' || !way.set.canvas) return { framed, stands: framed };
  if (isLacking(state, way.set.canvas)) return { framed, stands: false };
  if (!drawn) return { framed, stands: way.way === 'extend' };
  const isSo = way.way === (drawn === 'all' ? 'stretch' : 'mixed') && (stretchSpec(state)?.way ?? 'smooth') === by;
  return { framed, stands: isSo };
}
