import type { Box } from '../raster/raster.ts';

/** What the order of work depends on. */
export interface Planned {
  id: string;
  kind: string;
  box: Box;
  /** px across */
  across: number;
}

/** Kinds in the order in which damage of a print is treated (common practice), then things, then what a picture is made of. */
const STAGES = [
  ['tear'],
  ['lettering', 'stain'],
  ['speck', 'hair', 'scuff'],
  ['scratch'],
  ['crease'],
  ['strand', 'mesh'],
  ['glare', 'shadow'],
  ['object'],
  ['gap'],
];
const stageOf = (kind: string) => {
  const at = STAGES.findIndex((s) => s.includes(kind));
  return at < 0 ? STAGES.length : at;
};

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
        stageOf(a.kind) - stageOf(b.kind) ||
        size(a) - size(b) ||
        cell(a) - cell(b) ||
        a.box.y - b.box.y ||
        a.box.x - b.box.x,
    );
}
