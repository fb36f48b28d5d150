import type { Change, Fault, Layer, PictureDocument, Repair } from '../../contract/document.ts';
import { newId } from '../../contract/ids.ts';
import { Refused } from '../../contract/refused.ts';
import { kindFacts } from '../../core/faults/kinds.ts';
import type { RevealMark } from '../../core/mask/reveal.ts';
import { added, changed, find, removed, type Plan } from './parts.ts';
import { isStretch, reopened } from './repairs.ts';

/** A new layer on top of the others. */
export function newLayer(document: PictureDocument, name: string, id = newId()): Layer {
  return {
    id,
    name,
    order: document.layers.reduce((n, l) => Math.max(n, l.order), 0) + 1,
    opacity: 1,
    visible: true,
  };
}

/** Name of the layer that takes repairs when the person chose none: after the kind of fault. */
function layerNameFor(faults: Fault[]): string {
  const kinds = new Set(faults.map((f) => f.kind));
  return kinds.size === 1 ? kindFacts(faults[0].kind).plural : 'Repairs';
}

/** The layer that takes repairs: the chosen one, the one of the faults' kind above any stretch, or a new one of that name (added to `changes`). */
export function layerFor(
  document: PictureDocument,
  layerId: string | null,
  faults: Fault[],
  changes: Change[],
  newName: () => string = newId,
): Layer {
  const name = layerNameFor(faults);
  // What is marked where the background was drawn out lies over that: beneath it the same place shows something else.
  const drawnOut = new Set(document.repairs.filter(isStretch).map((r) => r.layerId));
  const above = Math.max(-Infinity, ...document.layers.filter((l) => drawnOut.has(l.id)).map((l) => l.order));
  const found =
    document.layers.find((l) => l.id === layerId) ??
    document.layers.find((l) => l.name === name && l.order > above && !layerId);
  if (found) return found;
  const layer = newLayer(document, name, newName());
  changes.push({ kind: 'layer', id: layer.id, before: null, after: layer });
  return layer;
}

const NONE: readonly RevealMark[] = [];
const joined = new WeakMap<readonly RevealMark[], WeakMap<readonly RevealMark[], readonly RevealMark[]>>();

/** What is hidden and shown of a repair: its own marks and those of its layer. */
export function marksOf(repair: Repair, layer: Layer): readonly RevealMark[] {
  const own = repair.reveal ?? NONE;
  const all = layer.reveal ?? NONE;
  if (!own.length || !all.length) return own.length ? own : all;
  let known = joined.get(own);
  if (!known) joined.set(own, (known = new WeakMap()));
  let both = known.get(all);
  if (!both) known.set(all, (both = [...own, ...all]));
  return both;
}

/** Adds an empty layer on top. */
export const addLayer: Plan<'addLayer'> = (document, edit, { name }) => {
  return { label: `Add layer ${edit.name}`, changes: [added('layer', newLayer(document, edit.name, name()))] };
};

/** Changes name, opacity, visibility or what is revealed of a layer. */
export const changeLayer: Plan<'changeLayer'> = (document, edit) => {
  const layer = find(document.layers, edit.id, 'layer');
  const what = edit.set.reveal ? 'Hide and show parts of' : 'Change';
  return { label: `${what} layer ${layer.name}`, changes: [changed('layer', layer, { ...layer, ...edit.set })] };
};

/** Moves a layer to a place in the pile. */
export const moveLayer: Plan<'moveLayer'> = (document, edit) => {
  const layer = find(document.layers, edit.id, 'layer');
  const rest = document.layers.filter((l) => l !== layer);
  rest.splice(Math.min(edit.to, rest.length), 0, layer);
  const changes = rest.flatMap((l, i) => (l.order === i + 1 ? [] : [changed('layer', l, { ...l, order: i + 1 })]));
  return { label: `Move layer ${layer.name}`, changes };
};

/** Removes a layer with its repairs. */
export const removeLayer: Plan<'removeLayer'> = (document, edit) => {
  const layer = find(document.layers, edit.id, 'layer');
  const own = document.repairs.filter((r) => r.layerId === layer.id);
  return {
    label: `Delete layer ${layer.name}`,
    changes: [removed('layer', layer), ...own.map((r) => removed('repair', r)), ...reopened(document, own)],
  };
};

/** Copies a layer with its repairs, which stay repairs with all their settings. */
export const duplicateLayer: Plan<'duplicateLayer'> = (document, edit, { name }) => {
  const layer = find(document.layers, edit.id, 'layer');
  const own = document.repairs.filter((r) => r.layerId === layer.id);
  const at = document.layers.indexOf(layer);
  const above = document.layers[at + 1];
  const copy = {
    ...layer,
    id: name(),
    name: `${layer.name} (copy)`.slice(0, 120),
    order: above ? (layer.order + above.order) / 2 : layer.order + 1,
  };
  const repairs = own.map((r): Repair => {
    const tries = r.tries.map((t) => ({ ...t, id: name() }));
    const chosen = tries[r.tries.findIndex((t) => t.id === r.chosen)].id;
    return { ...r, id: name(), layerId: copy.id, tries, chosen };
  });
  return {
    label: `Duplicate layer ${layer.name}`,
    changes: [added('layer', copy), ...repairs.map((r) => added('repair', r))],
  };
};

/** Merges a layer into the one beneath; its repairs stay repairs with all their settings. */
export const mergeLayer: Plan<'mergeLayer'> = (document, edit) => {
  const layer = find(document.layers, edit.id, 'layer');
  const own = document.repairs.filter((r) => r.layerId === layer.id);
  const at = document.layers.indexOf(layer);
  const below = document.layers[at - 1];
  if (!below) throw new Refused('There is no layer beneath this one to merge it into.', 409);
  const beneath = document.repairs.filter((r) => r.layerId === below.id);
  let order = Math.max(0, ...document.repairs.map((r) => r.order));
  // What acted on a whole layer acts on each of its repairs from now on, so that the picture stays as it is.
  const settled = (r: Repair, of: typeof layer): Repair => {
    const reveal = [...marksOf(r, of)];
    return {
      ...r,
      layerId: below.id,
      strength: r.strength * of.opacity,
      visible: r.visible && of.visible,
      ...(reveal.length ? { reveal } : {}),
    };
  };
  const changes: Change[] = [
    ...beneath.map((r) => changed('repair', r, settled(r, below))),
    ...own.map((r) => changed('repair', r, { ...settled(r, layer), order: ++order })),
    changed('layer', below, { ...below, opacity: 1, visible: true, reveal: undefined }),
    removed('layer', layer),
  ];
  return { label: `Merge layer ${layer.name} into ${below.name}`, changes };
};
