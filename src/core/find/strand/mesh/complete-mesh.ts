import type { Raster } from '../../../raster/raster.ts';
import { resizeStrand, scaleFor } from '../strand-cover.ts';
import type { TracedStrand } from '../traced-strand.ts';
import { continued, courseOf, extended, follow, onPicture, type Course } from './course.ts';
import { byDirection, familyOf, seenAt } from './family.ts';
import { pieces } from './pieces.ts';
import { BAND, countBetween, propagate, straightened } from './propagate.ts';

/**
 * Completes a mesh from two or more traced strands of each direction: works out how many lie between them, then steps from
 * strand to strand, each time looking for the next one around where the last two put it, with its own bends and width.
 *
 * @param onProgress may throw to cancel
 * @returns all strands, the traced ones included, in the pieces that are seen
 * @throws Error with a message for the user when no direction has two strands
 * Source: own.
 */
export function completeMesh(
  picture: Raster,
  strands: TracedStrand[],
  onProgress?: (done: number) => void,
): TracedStrand[] {
  const seen = seenAt(picture, scaleFor(strands));
  const groups = byDirection(strands).filter((g) => g.length > 1);
  if (!groups.length) throw new Error('Trace two neighbouring strands of each direction first.');
  const out: TracedStrand[] = [];
  groups.forEach((whole, g) => {
    const group = whole.map((s) => resizeStrand(s, 1 / seen.scale));
    const f = familyOf(group, seen);
    const traced = group.map((s) => courseOf(f, s));
    const at = (c: Course) => c.v[(c.from + c.to) >> 1];
    traced.sort((p, q) => at(p) - at(q));
    const gap = Math.abs(at(traced[1]) - at(traced[0]));
    const k = countBetween(f, traced[0], traced[1]);
    const [first, second] = [traced[0], traced[1]].map((c) => {
      const whole = straightened(extended(f, straightened(c, 0.2 * (gap / k)), gap / k), 0.3 * (gap / k));
      return { ...whole, v: continued(whole.v) };
    });
    const between: Course[] = [];
    for (let j = 1; j < k; j++) {
      const expected = first.v.map((v, s) => v + ((second.v[s] - v) * j) / k);
      const range = onPicture(f, expected);
      if (range) between.push(follow(f, expected, range.from, range.to, (BAND * gap) / k));
    }
    const row = [first, ...between, second];
    onProgress?.((g + 0.3) / groups.length);
    const below = propagate(f, row[row.length - 1], row[row.length - 2]);
    onProgress?.((g + 0.5) / groups.length);
    const above = propagate(f, row[0], row[1]);
    onProgress?.((g + 0.7) / groups.length);
    for (const course of [...above.reverse(), ...row, ...below]) out.push(...pieces(f, course));
    onProgress?.((g + 1) / groups.length);
  });
  return out;
}
