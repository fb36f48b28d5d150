import type { Edit } from '../../contract/api.ts';
import type { Change, PictureDocument, Repair } from '../../contract/document.ts';
import { Refused } from '../../codec/limits.ts';
import { newId } from '../store/store.ts';
import { added, changed, find, removed, type PlannedEdit } from './edits.ts';
import { marksOf } from '../pictures/stack.ts';

type OfLayers = Extract<Edit, { type: 'duplicateLayer' | 'mergeLayer' }>;

/** Works out what is done with whole layers. Merged or duplicated, their repairs stay repairs with all their settings. */
export function workOutLayers(document: PictureDocument, edit: OfLayers): PlannedEdit {
  const layer = find(document.layers, edit.id, 'layer');
  const own = document.repairs.filter((r) => r.layerId === layer.id);
  const at = document.layers.indexOf(layer);
  if (edit.type === 'duplicateLayer') {
    const above = document.layers[at + 1];
    const copy = {
      ...layer,
      id: newId(),
      name: `${layer.name} (copy)`.slice(0, 120),
      order: above ? (layer.order + above.order) / 2 : layer.order + 1,
    };
    const repairs = own.map((r): Repair => {
      const tries = r.tries.map((t) => ({ ...t, id: newId() }));
      const chosen = tries[r.tries.findIndex((t) => t.id === r.chosen)].id;
      return { ...r, id: newId(), layerId: copy.id, tries, chosen };
    });
    return {
      label: `Duplicate layer ${layer.name}`,
      changes: [added('layer', copy), ...repairs.map((r) => added('repair', r))],
    };
  }
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
}
