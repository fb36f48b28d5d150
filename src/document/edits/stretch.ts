import type { Change, Fault, PictureDocument, Repair } from '../../contract/document.ts';
import { Refused } from '../../contract/refused.ts';
import { coverWithin } from '../../core/mask/shapes.ts';
import { boxOf, intersect, isEmpty } from '../../core/raster/raster.ts';
import { dated } from '../../core/repair/registry.ts';
import type { StretchSpec } from '../../core/repair/spec.ts';
import { amountsInWords, amountsOf } from '../../core/repair/stretch/amounts.ts';
import { notedCanvas } from '../canvas.ts';
import { chosenFaults } from './fills.ts';
import { newLayer } from './layers.ts';
import { added, isOwnGap, removed, type Plan } from './parts.ts';
import { isStretch, newRepair, nowTreated } from './repairs.ts';

/**
 * Draws the background out over what the canvas adds. It lies on a layer of its own above all others, whose repairs it draws
 * out too; what filled those gaps before goes.
 */
export const stretch: Plan<'stretch'> = (document, edit, { source, area, name }) => {
  const faults = chosenFaults(document, edit.faultIds);
  if (faults.some((f) => f.kind !== 'gap' || isOwnGap(f, source)))
    throw new Refused('Only what a canvas adds is reached by stretching. Choose a gap.', 409);
  const from = intersect(boxOf(source), area);
  const guarded = coverWithin(edit.guard, 0, 0, from);
  const amounts = amountsOf(from, area, isEmpty(guarded) ? null : guarded);
  if (amounts.some((a) => !Number.isFinite(a.times)))
    throw new Refused(
      `There is ${amountsInWords(amounts)}: the subject reaches the picture’s edge. Fill it instead.`,
      409,
    );
  const how = { from, onto: area, guard: edit.guard, ...(edit.way === 'seams' && { way: edit.way }) };
  const spec = dated<StretchSpec>({ method: 'stretch', ...how }, notedCanvas(document));
  const layer = newLayer(document, 'Stretch', name());
  const tryId = name();
  const repair = newRepair(document, {
    id: name(),
    layerId: layer.id,
    faultIds: faults.map((f) => f.id),
    tries: [{ id: tryId, spec }],
    chosen: tryId,
    strength: 1,
  });
  const gaps = new Set(faults.map((f) => f.id));
  // What filled nothing but these gaps would lie beneath, unseen.
  const beneath = document.repairs.filter((r) => r.faultIds.length > 0 && r.faultIds.every((id) => gaps.has(id)));
  const changes: Change[] = [
    ...beneath.map((r) => removed('repair', r)),
    added('layer', layer),
    added('repair', repair),
    ...nowTreated(faults),
  ];
  return { label: 'Stretch the background', changes };
};

/** Stretches, with the gaps they treat and layers that hold nothing else: they are made for one canvas and go with it. */
export function stretchesOf({
  faults,
  repairs,
  layers,
}: PictureDocument): Array<[Change['kind'], Repair | Fault | PictureDocument['layers'][number]]> {
  const own = repairs.filter(isStretch);
  const gaps = new Set(own.flatMap((r) => r.faultIds));
  const alone = layers.filter((l) => {
    const on = repairs.filter((r) => r.layerId === l.id);
    return on.length > 0 && on.every(isStretch);
  });
  return [
    ...own.map((r) => ['repair', r] as const),
    ...faults.filter((f) => gaps.has(f.id)).map((f) => ['fault', f] as const),
    ...alone.map((l) => ['layer', l] as const),
  ].map(([kind, row]) => [kind, row]);
}
