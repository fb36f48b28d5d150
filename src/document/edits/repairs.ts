import type { Change, Fault, PictureDocument, Repair } from '../../contract/document.ts';
import { Refused } from '../../contract/refused.ts';
import { isEarlier, renewed } from '../../core/repair/registry.ts';
import type { RepairSpec } from '../../core/repair/spec.ts';
import { notedCanvas } from '../canvas.ts';
import { changed, find, removed, type Plan } from './parts.ts';

/** Faults of a removed repair are open again, unless another repair treats them too. */
export function reopened(document: PictureDocument, repairs: Repair[]): Change[] {
  const removedIds = new Set(repairs.map((r) => r.id));
  const kept = new Set(document.repairs.filter((r) => !removedIds.has(r.id)).flatMap((r) => r.faultIds));
  const ids = new Set(repairs.flatMap((r) => r.faultIds).filter((id) => !kept.has(id)));
  return document.faults
    .filter((f) => ids.has(f.id) && f.state !== 'open')
    .map((f) => changed('fault', f, { ...f, state: 'open' as const }));
}

/** Removes repairs; faults that nothing treats any longer are open again. */
export function planRemoval(document: PictureDocument, repairs: Repair[]): Change[] {
  return [...repairs.map((r) => removed('repair', r)), ...reopened(document, repairs)];
}

/** The same repair over the present covers of its faults. */
export function withCover(repair: Repair, faults: Fault[]): Repair {
  const own = faults.filter((f) => repair.faultIds.includes(f.id));
  if (!own.length) return repair;
  const cover = own.flatMap((f) => f.shapes);
  const margin = Math.max(...own.map((f) => f.margin));
  const feather = Math.max(...own.map((f) => f.feather));
  // What it treats of them stays what it is; only margin and feather follow.
  const whole = repair.cover ?? [...cover, ...(repair.portion ?? [])];
  const spec = (s: RepairSpec) =>
    s.method === 'fill' ? { ...s, cover: whole, margin, feather } : s.method === 'lift' ? { ...s, cover } : s;
  return { ...repair, tries: repair.tries.map((t) => ({ ...t, spec: spec(t.spec) })) };
}

/** A repair on top of the others of its layer. */
export function newRepair(document: PictureDocument, set: Omit<Repair, 'order' | 'visible'>): Repair {
  return { ...set, order: document.repairs.reduce((n, r) => Math.max(n, r.order), 0) + 1, visible: true };
}

/** Open faults are treated once a repair of theirs is there. */
export const nowTreated = (faults: Fault[]): Change[] =>
  faults.flatMap((f) =>
    f.state === 'open'
      ? [{ kind: 'fault' as const, id: f.id, before: f, after: { ...f, state: 'treated' as const } }]
      : [],
  );

const LABELS: Record<string, string> = {
  strength: 'Set strength',
  visible: 'Show or hide',
  chosen: 'Choose try',
  layerId: 'Move to layer',
  reveal: 'Hide and show parts',
};

/** Changes strength, visibility, try, layer or what is revealed of a repair. */
export const changeRepair: Plan<'changeRepair'> = (document, edit) => {
  const repair = find(document.repairs, edit.id, 'repair');
  if (edit.set.chosen) find(repair.tries, edit.set.chosen, 'try');
  if (edit.set.layerId) find(document.layers, edit.set.layerId, 'layer');
  const label = Object.keys(edit.set).map((k) => LABELS[k])[0] ?? 'Change repair';
  return { label, changes: [changed('repair', repair, { ...repair, ...edit.set })] };
};

/** Sets the strength of several repairs. */
export const setStrength: Plan<'setStrength'> = (document, edit) => {
  const own = document.repairs.filter((r) => edit.ids.includes(r.id) && r.strength !== edit.strength);
  if (!own.length) throw new Refused('These repairs no longer exist, or have this strength already.', 409);
  return {
    label: `Set strength of ${own.length} repairs`,
    changes: own.map((r) => changed('repair', r, { ...r, strength: edit.strength })),
  };
};

/** Changes how fills take tone and donors, in the tries that are in use. */
export const changeFills: Plan<'changeFills'> = (document, edit) => {
  const changes = edit.ids.flatMap((id) => {
    const repair = find(document.repairs, id, 'repair');
    const tries = repair.tries.map((t) =>
      t.id === repair.chosen && t.spec.method === 'fill' ? { ...t, spec: { ...t.spec, ...edit.set } } : t,
    );
    return JSON.stringify(tries) === JSON.stringify(repair.tries)
      ? []
      : [changed('repair', repair, { ...repair, tries })];
  });
  if (!changes.length) throw new Refused('These fills are set like this already.', 409);
  return { label: changes.length === 1 ? 'Change a fill' : `Change ${changes.length} fills`, changes };
};

/** Makes what an earlier version of a method rendered anew. */
export const renew: Plan<'renew'> = (document, edit) => {
  const changes = edit.ids.flatMap((id) => {
    const repair = find(document.repairs, id, 'repair');
    const renew = (t: Repair['tries'][number]) =>
      t.id === repair.chosen && isEarlier(t.spec) ? { ...t, spec: renewed(t.spec, notedCanvas(document)) } : t;
    const tries = repair.tries.map(renew);
    return tries.some((t, n) => t !== repair.tries[n]) ? [changed('repair', repair, { ...repair, tries })] : [];
  });
  if (!changes.length) throw new Refused('These repairs are made by the present version already.', 409);
  return { label: changes.length > 1 ? `Make ${changes.length} repairs anew` : 'Make a repair anew', changes };
};

/** Removes a repair; its faults are open again. */
export const removeRepair: Plan<'removeRepair'> = (document, edit) => {
  const repair = find(document.repairs, edit.id, 'repair');
  return { label: 'Delete repair', changes: [removed('repair', repair), ...reopened(document, [repair])] };
};

/** Whether a repair lays a strip. */
export const isStrip = ({ tries, chosen }: Repair): boolean =>
  tries.find((t) => t.id === chosen)?.spec.method === 'strip';

/** Whether a repair draws the background out. */
export const isStretch = ({ tries, chosen }: Repair): boolean =>
  tries.find((t) => t.id === chosen)?.spec.method === 'stretch';
