import type { FaultKind } from '../faults/kinds.ts';
import type { Shape } from '../mask/shapes.ts';
import type { Box, Raster } from '../raster/raster.ts';

/** What a finder takes something for; the same words as the kinds of fault. */
export type FoundKind = Exclude<FaultKind, 'glare' | 'shadow'>;

/** Something that may be a fault. */
export interface Find {
  kind: FoundKind;
  /** 0 to 1; from 0.5 on it is shown at the usual sensitivity */
  score: number;
  /** the cover, without margin */
  shapes: Shape[];
  box: Box;
  /** px across, and along where it is long */
  width: number;
  length: number;
  /** levels of 255 by which it is lighter (above 0) or darker than what is around it */
  contrast: number;
}

/** What finders are given: the picture, its luma on the 8-bit scale, and what people marked on it. */
export interface FindInput {
  picture: Raster;
  luma: Float32Array;
  /** the backdrop, for finders that need one */
  backdrop?: Shape[];
  /** what the picture is about, for finders that compare with it */
  subject?: Shape[];
}

/** One way of finding; a file each. It changes nothing. `onProgress` may throw to cancel. */
export interface Finder {
  find(input: FindInput, onProgress?: (done: number) => void): Find[];
}

/** The least score that is shown at a sensitivity from 0 (only what is certain) to 1 (everything). */
export const scoreFor = (sensitivity: number): number => 1 - sensitivity;

export const sigmoid = (v: number): number => 1 / (1 + Math.exp(-v));

/** A score, 0 to 1, whose logit is moved by so much. */
export const shiftLogit = (score: number, by: number): number =>
  by ? sigmoid(Math.log(score / (1 - score)) + by) : score;

/** Side in px of the cells in which finds are counted against each other. */
const CELL = 96;

interface Among<F> {
  /** how much a find counts */
  weigh?: (find: F) => number;
  /** what is usual at least, finds a cell */
  least?: number;
  /** how many times as dense as is usual they may lie before they are doubted */
  dense?: number;
}

/**
 * Doubts finds that lie much denser than finds do elsewhere in the picture: dust falls anywhere, while blossoms, stars,
 * mortar and twigs keep together. Lowers their score by how far they exceed what is usual.
 */
export function suppressClusters<F extends Pick<Find, 'box' | 'score' | 'length'>>(
  finds: F[],
  width: number,
  height: number,
  { weigh = () => 1, least = 1 / 9, dense = 4 }: Among<F> = {},
): F[] {
  const w = Math.ceil(width / CELL);
  const h = Math.ceil(height / CELL);
  const counts = new Float32Array(w * h);
  const cellOf = ({ box }: F) =>
    Math.min(h - 1, Math.floor((box.y + box.height / 2) / CELL)) * w +
    Math.min(w - 1, Math.floor((box.x + box.width / 2) / CELL));
  for (const f of finds) if (f.score >= 0.5) counts[cellOf(f)] += weigh(f);
  const around = (c: number) => {
    const x = c % w;
    const y = (c - x) / w;
    let sum = 0;
    let n = 0;
    for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++)
      for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++, n++) sum += counts[v * w + u];
    return sum / n;
  };
  const local = Float32Array.from(counts, (_, c) => around(c));
  const sorted = Float32Array.from(local).sort();
  // What is usual is taken from the emptier half of the picture, never below `least` a cell.
  const usual = Math.max(sorted[sorted.length >> 1], least);
  return finds.map((f) => {
    const ratio = local[cellOf(f)] / usual;
    if (ratio <= dense) return f;
    return { ...f, score: shiftLogit(f.score, -6 * Math.log2(ratio / dense)) };
  });
}
