import type { PictureState } from '../../contract/api.ts';
import type { Step } from '../../contract/document.ts';
import type { Box } from '../../core/raster/raster.ts';
import { canvasOf } from '../../document/canvas.ts';

const known = new WeakMap<Step[], { facts: unknown; box: Box }>();

/** The canvas of a picture: the area that people see and work on, px of the base. The same object while it stays. */
export function canvasOfState({ picture: { facts }, document }: PictureState): Box {
  const { steps } = document;
  let found = known.get(steps);
  if (!found || found.facts !== facts) {
    found = { facts, box: canvasOf(document, facts) };
    known.set(steps, found);
  }
  return found.box;
}

/** px of a picture's longer side; 1 while none is open. */
export function longSideOf(state: PictureState | undefined): number {
  if (!state) return 1;
  const { width, height } = canvasOfState(state);
  return Math.max(width, height);
}
