import type { Change, Fault, PictureDocument, Repair } from '../../contract/document.ts';
import { Refused } from '../../contract/refused.ts';
import { coverWithin, type Shape } from '../../core/mask/shapes.ts';
import { around, boxOf, contains, intersect, isEmpty, type Box } from '../../core/raster/raster.ts';
import { dated } from '../../core/repair/registry.ts';
import type { StretchSpec } from '../../core/repair/spec.ts';
import { amountsInWords, amountsOf } from '../../core/repair/stretch/amounts.ts';
import { notedCanvas } from '../canvas.ts';
import { chosenFaults } from './fills.ts';
import { newFault } from './faults.ts';
import { newLayer } from './layers.ts';
import { added, changed, isOwnGap, removed, type Plan } from './parts.ts';
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
  const onto = edit.onto ?? area;
  if (!contains(area, onto) || !contains(onto, from) || !around(onto, from).length)
    throw new Refused('A background is drawn out from its picture as far as the canvas. Choose an area between both.');
  const guarded = coverWithin(edit.guard, 0, 0, from);
  const amounts = amountsOf(from, onto, isEmpty(guarded) ? null : guarded);
  if (amounts.some((a) => !Number.isFinite(a.times)))
    throw new Refused(
      `There is ${amountsInWords(amounts)}: the subject reaches the picture’s edge. Fill it instead.`,
      409,
    );
  const how = { from, onto, guard: edit.guard, ...(edit.way === 'seams' && { way: edit.way }) };
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
    ...treatedWithin(document, faults, onto, area, name),
  ];
  return { label: 'Stretch the background', changes };
};

/** Gaps treated as far as an area reaches; what is left of them is a gap of its own, and open. */
function treatedWithin(document: PictureDocument, faults: Fault[], onto: Box, area: Box, name: () => string): Change[] {
  const boxes = faults.map((f) => f.shapes.flatMap((s) => (s.kind === 'box' && s.op === 'add' ? [s] : [])));
  const rest = boxes.flat().flatMap((box) => around(box, onto));
  if (!rest.length) return nowTreated(faults);
  const within = faults.map((f, n) => {
    const shapes = boxes[n].map((b) => intersect(b, onto)).filter((b) => !isEmpty(b));
    const treated: Fault = { ...f, shapes: shapes.map(gapShape), state: 'treated' };
    return shapes.length ? changed('fault', f, treated) : removed('fault', f);
  });
  const left = newFault(document, rest.map(gapShape), 'gap', area, undefined, undefined, name());
  return [...within, added('fault', { ...left, margin: 0, feather: 0 })];
}

const gapShape = ({ x, y, width, height }: Box): Shape => ({ op: 'add', kind: 'box', x, y, width, height });

/** Stretches, with the gaps they treat and layers that hold nothing else: they are made for one canvas and go with it. */
export function stretchesOf({
  faults,
  repairs,
  layers,
}: PictureDocument): Array<[Change['kind'], Repair | Fault | PictureDocument['layers'][number]]> {
  const own = repairs.filter(isStretch);
  const gaps = new Set([...own.flatMap((r) => r.faultIds), ...besideStretches(own, faults)]);
  const filled = repairs.filter((r) => !isStretch(r) && r.faultIds.length && r.faultIds.every((id) => gaps.has(id)));
  const going = new Set([...own, ...filled].map((r) => r.id));
  const alone = layers.filter((l) => {
    const on = repairs.filter((r) => r.layerId === l.id);
    return on.length > 0 && on.every((r) => going.has(r.id));
  });
  return [
    ...[...own, ...filled].map((r) => ['repair', r] as const),
    ...faults.filter((f) => gaps.has(f.id)).map((f) => ['fault', f] as const),
    ...alone.map((l) => ['layer', l] as const),
  ].map(([kind, row]) => [kind, row]);
}

/** Gaps that were left beside what was drawn out as far as a part of its canvas: what fills them goes on from that. */
function besideStretches(stretches: readonly Repair[], faults: readonly Fault[]): string[] {
  const specs = stretches.flatMap((r) => r.tries.flatMap(({ spec }) => (spec.method === 'stretch' ? [spec] : [])));
  return faults
    .filter(
      (f) =>
        f.kind === 'gap' &&
        specs.some(
          ({ canvas, onto }) =>
            canvas !== undefined &&
            f.shapes.every((s) => s.kind === 'box' && contains(canvas, s) && isEmpty(intersect(s, onto))),
        ),
    )
    .map((f) => f.id);
}
