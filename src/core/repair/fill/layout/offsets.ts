import { borderMatches } from './border-moves.ts';
import { commonMoves, type Proposed } from './common-moves.ts';
import { donorOf, type Field, type Move } from './field.ts';
import type { Level } from './levels.ts';
import { ringMoves } from './ring-moves.ts';

/**
 * Proposes moves by which donors could be laid into the cover.
 * - *Peaks*: the commonest moves between alike patches of the known area, which regular structure repeats by.
 * - *Borders*: the best matches of patches on the cover's border.
 * - *Rings*: moves that lay a ring around the cover onto something alike: some by the whole ring, others so that each stretch
 *   of it is well met by one.
 *
 * Source: dominant offsets after He & Sun, "Statistics of Patch Offsets for Image Completion", ECCV 2012; rings from own measurement.
 */
export function proposeMoves(field: Field, common: readonly Move[]): Move[] {
  const known = new Map<string, Move>();
  const add = (moves: readonly Move[]) => {
    for (const m of moves) if (m.x || m.y) known.set(`${m.x},${m.y}`, m);
  };
  add(ringMoves(field));
  add(common);
  return serveAll(field, [...known.values()]);
}

/** Moves that a level's pixels propose by themselves, whatever they are weighed by: *peaks* and *borders*. */
export function movesOfLevel(field: Field, level: Level, seed: number): Proposed {
  const { moves, regular } = commonMoves(field, level, seed);
  return { moves: [...moves, ...borderMatches(field, level)], regular };
}

/** Adds moves until every covered pixel finds a donor by one of them. */
function serveAll(field: Field, moves: Move[]): Move[] {
  const { pixels } = field;
  const served = new Uint8Array(pixels.length);
  for (const move of moves) pixels.forEach((p, n) => (served[n] ||= donorOf(field, p, move) >= 0 ? 1 : 0));
  const out = moves.slice();
  for (let n = 0; n < pixels.length; n++) {
    if (served[n]) continue;
    const move = nearestDonor(field, pixels[n]);
    if (!move) break;
    out.push(move);
    pixels.forEach((p, m) => (served[m] ||= donorOf(field, p, move) >= 0 ? 1 : 0));
  }
  return out;
}

/** The shortest move from a pixel to a place that may be taken, in rings around it; null when there is none. */
function nearestDonor(field: Field, p: number): Move | null {
  const most = Math.max(field.width, field.rows);
  for (let r = 1; r <= most; r++) {
    for (let k = -r; k <= r; k++) {
      for (const [x, y] of [
        [k, -r],
        [k, r],
        [-r, k],
        [r, k],
      ])
        if (donorOf(field, p, { x, y }) >= 0) return { x, y };
    }
  }
  return null;
}
