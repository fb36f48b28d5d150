import type { Change, Fault, HandSpec, PictureDocument, Repair } from '../../contract/document.ts';
import { Refused } from '../../contract/refused.ts';
import type { RevealMark } from '../../core/mask/reveal.ts';
import type { Box } from '../../core/raster/raster.ts';
import { dated } from '../../core/repair/registry.ts';
import { notedCanvas } from '../canvas.ts';
import { newFault } from './faults.ts';
import { added, changed, find, type Plan } from './parts.ts';
import { layerFor } from './layers.ts';
import { newRepair, nowTreated } from './repairs.ts';

const VERBS: Record<HandSpec['method'], string> = {
  copy: 'Copy onto',
  blend: 'Blend',
  patch: 'Patch',
  transplant: 'Transplant onto',
  shade: 'Shade',
  lift: 'Lift',
  strip: 'Lay a strip',
};

/** The chosen try's settings, which must be those of a repair by hand. */
function handSpecOf(repair: Repair): HandSpec {
  const { spec } = find(repair.tries, repair.chosen, 'try');
  if (spec.method === 'fill' || spec.method === 'given' || spec.method === 'stretch')
    throw new Refused('This repair searches its donors itself. Begin a repair by hand above it.', 409);
  return spec;
}

/** A spec as it comes in, noting the canvases that it was and is made on, whatever it says of that itself. */
function noted(document: PictureDocument, { canvas: _, ...spec }: HandSpec, before?: Box): HandSpec {
  return dated({ ...spec, ...(before && { canvas: before }) }, notedCanvas(document));
}

const withSpec = (document: PictureDocument, repair: Repair, spec: HandSpec): Repair => ({
  ...repair,
  tries: repair.tries.map((t) => (t.id === repair.chosen ? { ...t, spec: noted(document, spec, t.spec.canvas) } : t)),
});

/** Puts a repair by hand on faults that are there, or on a place that it marks. */
export const placeRepair: Plan<'placeRepair'> = (document, edit, { area, advice, habits, name }) => {
  if (edit.id && document.repairs.some((r) => r.id === edit.id))
    throw new Refused('A repair of this name is there already.', 409);
  const changes: Change[] = [];
  const faults: Fault[] = edit.faultIds.map((id) => find(document.faults, id, 'fault'));
  if (edit.mark) {
    const { shapes, kind } = edit.mark;
    const fault = newFault(document, shapes, kind, area, advice[0], habits[kind], name());
    faults.push(fault);
    changes.push(added('fault', { ...fault, state: 'treated' }));
  }
  const layer = layerFor(document, edit.layerId, faults, changes, name);
  const tryId = name();
  const repair = newRepair(document, {
    id: edit.id ?? name(),
    layerId: layer.id,
    faultIds: faults.map((f) => f.id),
    tries: [{ id: tryId, spec: noted(document, edit.spec) }],
    chosen: tryId,
    strength: edit.strength ?? 1,
    ...(edit.reveal?.length && { reveal: edit.reveal }),
  });
  changes.push(added('repair', repair), ...nowTreated(faults.filter((f) => edit.faultIds.includes(f.id))));
  const what = faults.length === 1 ? ` fault ${faults[0].number}` : faults.length ? ` ${faults.length} faults` : '';
  return { label: `${VERBS[edit.spec.method]}${what}`, changes };
};

/** Adds strokes to a repair by hand. */
export const addStrokes: Plan<'addStrokes'> = (document, edit) => {
  const repair = find(document.repairs, edit.id, 'repair');
  const spec = handSpecOf(repair);
  if (!('strokes' in spec)) throw new Refused('This repair has no strokes to add to.', 409);
  if (spec.strokes.length + edit.strokes.length > 2_000)
    throw new Refused('This repair holds as many strokes as it can (2,000). Begin another one.', 409);
  const next = { ...spec, strokes: [...spec.strokes, ...edit.strokes] };
  return { label: 'Paint on', changes: [changed('repair', repair, withSpec(document, repair, next))] };
};

/** Changes settings, donor or method of a repair by hand. */
export const changeSpec: Plan<'changeSpec'> = (document, edit) => {
  const repair = find(document.repairs, edit.id, 'repair');
  const before = handSpecOf(repair);
  const label =
    before.method !== edit.spec.method ? `Switch to ${edit.spec.method}` : `Change settings of ${edit.spec.method}`;
  return { label, changes: [changed('repair', repair, withSpec(document, repair, edit.spec))] };
};

/** Hides an area of every layer, so that the original is seen there again. */
export const bringBack: Plan<'bringBack'> = (document, edit) => {
  const mark: RevealMark = { op: 'hide', kind: 'area', shapes: edit.shapes, feather: edit.feather };
  if (!document.layers.length) throw new Refused('There is no repair that could be taken back here.', 409);
  return {
    label: 'Bring back the original',
    changes: document.layers.map((l) => changed('layer', l, { ...l, reveal: [...(l.reveal ?? []), mark] })),
  };
};
