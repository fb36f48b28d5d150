import type { PictureDocument, Repair } from '../../../contract/document.ts';
import { rasterise, type Point, type Shape } from '../../../core/mask/shapes.ts';
import { strokesWithin } from '../../../core/mask/strokes.ts';
import { applyAffine } from '../../../core/raster/affine.ts';
import { contains, intersect, isEmpty, type Box } from '../../../core/raster/raster.ts';
import { mapOf, type Donor } from '../../../core/repair/hand/donor.ts';

/** px within which something counts as ahead of a travelling donor. */
const AHEAD = 6;

/** Whether shapes cover any pixel of a box. */
function meets(shapes: readonly Shape[], box: Box): boolean {
  return shapes.length > 0 && rasterise(shapes, box).data.some((v) => v > 0);
}

/** Where a donor stands while the brush is at a place. */
export const donorAt = (donor: Donor, brush: Point): Point =>
  applyAffine(mapOf(donor.from, donor.at, donor, true), ...brush);

/** The box of the pixels that a repair by hand along strokes took from elsewhere; null for other methods. */
export function takenFrom(repair: Repair, area: Box): Box | null {
  const { spec } = repair.tries.find((t) => t.id === repair.chosen)!;
  if ((spec.method !== 'copy' && spec.method !== 'blend') || !spec.donor) return null;
  const box = strokesWithin(spec.strokes, area);
  if (isEmpty(box)) return null;
  const map = mapOf(spec.donor.from, spec.donor.at, spec.donor, true);
  const corners = [
    applyAffine(map, box.x, box.y),
    applyAffine(map, box.x + box.width, box.y),
    applyAffine(map, box.x, box.y + box.height),
    applyAffine(map, box.x + box.width, box.y + box.height),
  ];
  const x = Math.min(...corners.map((c) => c[0]));
  const y = Math.min(...corners.map((c) => c[1]));
  return {
    x,
    y,
    width: Math.max(...corners.map((c) => c[0])) - x,
    height: Math.max(...corners.map((c) => c[1])) - y,
  };
}

/**
 * What the donor of a running stroke is about to run onto, in words; null when all is well.
 * @param at where the donor stands
 * @param radius of the brush, px
 * @param own the repair being painted
 */
export function donorWarning(
  at: Point,
  radius: number,
  area: Box,
  document: PictureDocument,
  barred: readonly Shape[],
  /** the outlined subject, which lends nothing */
  subject: readonly Shape[],
  own: { repairId: string | null; faultIds: readonly string[] },
): string | null {
  const r = radius + AHEAD;
  const box: Box = {
    x: Math.floor(at[0] - r),
    y: Math.floor(at[1] - r),
    width: Math.ceil(2 * r),
    height: Math.ceil(2 * r),
  };
  if (!contains(area, { x: at[0] - radius, y: at[1] - radius, width: 2 * radius, height: 2 * radius }))
    return 'The donor runs over the edge of the picture: nothing is put down there.';
  for (const f of document.faults) {
    if (f.state === 'open' && meets(f.shapes, box))
      return own.faultIds.includes(f.id)
        ? 'The donor runs onto the fault itself.'
        : `The donor runs onto fault ${f.number}, which is still open.`;
  }
  if (meets(subject, box)) return 'The donor runs onto the outlined subject.';
  if (meets(barred, box)) return 'The donor runs onto the barred area.';
  for (const repair of document.repairs) {
    if (repair.id === own.repairId || !repair.visible) continue;
    const used = takenFrom(repair, area);
    if (used && !isEmpty(intersect(used, box)))
      return 'Another repair already took pixels from here: a repeat is easily seen.';
  }
  return null;
}
