import { kindFacts, type FaultKind } from '../faults/kinds.ts';
import type { Box } from '../raster/raster.ts';

/** What the order of work depends on. */
export interface Planned {
  id: string;
  kind: FaultKind;
  box: Box;
  /** px across */
  across: number;
}

/** Side of the cells in px in which neighbours are treated together. */
const CELL = 512;

/**
 * The order of work: by the stage of its kind, small before large, and neighbours one after the other so that the eye does not
 * jump about. Small and large part at twice the size, so that a neighbour of about the same size comes before a far smaller one.
 */
export function inOrderOfWork<P extends Planned>(list: readonly P[]): P[] {
  const size = (p: P) => Math.floor(Math.log2(Math.max(1, p.across)) / 2);
  const cell = ({ box }: P) => {
    const row = Math.floor((box.y + box.height / 2) / CELL);
    const column = Math.floor((box.x + box.width / 2) / CELL);
    // To and fro, so that the end of a row is beside the start of the next.
    return row * 1000 + (row % 2 ? 999 - column : column);
  };
  return list
    .slice()
    .sort(
      (a, b) =>
        kindFacts(a.kind).stage - kindFacts(b.kind).stage ||
        size(a) - size(b) ||
        cell(a) - cell(b) ||
        a.box.y - b.box.y ||
        a.box.x - b.box.x,
    );
}
