import { kindFacts, type FaultKind } from '../faults/kinds.ts';
import type { Shape } from '../mask/shapes.ts';
import type { Box } from '../raster/raster.ts';

/** What the order of work depends on. */
export interface Planned {
  id: string;
  kind: FaultKind;
  box: Box;
  /** px across */
  across: number;
}

/** What runs on through others: lines, by the places they pass. */
export interface Crossing {
  kind: FaultKind;
  box: Box;
  shapes: readonly Shape[];
}

/** Whether a line passes through a box, a few px of room around it. */
function passes({ kind, shapes }: Crossing, { x, y, width, height }: Box): boolean {
  const facts = kindFacts(kind);
  if (!facts.line && !facts.strands) return false;
  const room = 4;
  return shapes.some(
    (s) =>
      s.kind !== 'box' &&
      s.points.some(([u, v]) => u > x - room && v > y - room && u < x + width + room && v < y + height + room),
  );
}

/**
 * Puts what crosses others first, and leaves the order as it is otherwise: a wire that is gone no longer hides what is behind the spot
 * it runs through (common practice).
 */
export function crossingFirst<P extends Crossing>(list: readonly P[]): P[] {
  const areas = list.filter(({ kind }) => !kindFacts(kind).line && !kindFacts(kind).strands);
  const first = new Set(list.filter((p) => areas.some((a) => passes(p, a.box))));
  return [...first, ...list.filter((p) => !first.has(p))];
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
