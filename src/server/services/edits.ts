import type { Edit } from '../../contract/api.ts';
import type { Change, Fault, FaultKind, Layer, PictureDocument, Repair } from '../../contract/document.ts';
import type { Advice } from '../../core/plan/advice.ts';
import { measureFault, proposeCover } from '../../core/plan/cover.ts';
import { withHabit, type KindDefaults } from '../../core/plan/habits.ts';
import { boundsOfShapes } from '../../core/mask/shapes.ts';
import { isEmpty } from '../../core/raster/raster.ts';
import { isEarlier, renewed } from '../../core/repair/registry.ts';
import type { RepairSpec } from '../../core/repair/spec.ts';
import { Refused } from '../../codec/limits.ts';
import { newId } from '../store/store.ts';
import { workOutByHand } from './byHand.ts';
import { workOutLayers } from './layers.ts';

/** An edit worked out: what it is called in undo and redo, and the rows it changes. */
export interface PlannedEdit {
  label: string;
  changes: Change[];
}

export interface Size {
  width: number;
  height: number;
}

export const gone = (what: string) =>
  new Refused(`This ${what} no longer exists. It was removed or undone meanwhile.`, 409);

export function find<T extends { id: string }>(list: T[], id: string, what: string): T {
  const found = list.find((x) => x.id === id);
  if (!found) throw gone(what);
  return found;
}

export const changed = <K extends Change['kind'], T extends Fault | Layer | Repair>(
  kind: K,
  before: T,
  after: T,
): Change => ({
  kind,
  id: before.id,
  before,
  after,
});
export const added = (kind: Change['kind'], after: Fault | Layer | Repair): Change => ({
  kind,
  id: after.id,
  before: null,
  after,
});
export const removed = (kind: Change['kind'], before: Fault | Layer | Repair): Change => ({
  kind,
  id: before.id,
  before,
  after: null,
});

/** A new fault with the next number and a proposed cover. */
export function newFault(
  document: PictureDocument,
  shapes: Fault['shapes'],
  kind: FaultKind,
  size: Size,
  advised?: Advice,
  habit?: KindDefaults,
): Fault {
  const bounds = boundsOfShapes(shapes, size.width, size.height);
  if (isEmpty(bounds)) throw new Refused('The mark lies outside the picture. Mark a place on it.');
  const proposed = advised ?? proposeCover(measureFault(shapes, size.width, size.height));
  const settled = advised && withHabit(advised, habit);
  const { margin, feather } = settled ?? proposed;
  const advice = settled && {
    reason: settled.reason,
    strength: settled.strength,
    portions: settled.portions,
    margin: proposed.margin,
    feather: proposed.feather,
  };
  const number = document.faults.reduce((n, f) => Math.max(n, f.number), 0) + 1;
  return { id: newId(), number, kind, shapes, margin, feather, state: 'open', ...(advice && { advice }) };
}

/** A new layer on top of the others. */
export function newLayer(document: PictureDocument, name: string): Layer {
  return {
    id: newId(),
    name,
    order: document.layers.reduce((n, l) => Math.max(n, l.order), 0) + 1,
    opacity: 1,
    visible: true,
  };
}

/** Faults of a removed repair are open again, unless another repair treats them too. */
function reopened(document: PictureDocument, repairs: Repair[]): Change[] {
  const gone = new Set(repairs.map((r) => r.id));
  const kept = new Set(document.repairs.filter((r) => !gone.has(r.id)).flatMap((r) => r.faultIds));
  const ids = new Set(repairs.flatMap((r) => r.faultIds).filter((id) => !kept.has(id)));
  return document.faults
    .filter((f) => ids.has(f.id) && f.state !== 'open')
    .map((f) => changed('fault', f, { ...f, state: 'open' as const }));
}

/** Open faults that go, since new ones hold them. */
function replaced(document: PictureDocument, replaces: string[]): Change[] {
  const treated = new Set(document.repairs.flatMap((r) => r.faultIds));
  return document.faults.filter((f) => replaces.includes(f.id) && !treated.has(f.id)).map((f) => removed('fault', f));
}

const LABELS: Record<string, string> = {
  strength: 'Set strength',
  visible: 'Show or hide',
  chosen: 'Choose try',
  layerId: 'Move to layer',
  reveal: 'Hide and show parts',
};

/**
 * Works out what an edit changes, without changing anything.
 * @param advice what is proposed for each mark that the edit makes, in their order
 * @param habits how the editor last changed what was proposed, by kind
 * @throws Refused
 */
export function planEdit(
  document: PictureDocument,
  edit: Edit,
  size: Size,
  advice: Advice[] = [],
  habits: Record<string, KindDefaults> = {},
): PlannedEdit {
  switch (edit.type) {
    case 'addFault': {
      const fault = {
        ...newFault(document, edit.shapes, edit.kind, size, advice[0], habits[edit.kind]),
        line: edit.line,
      };
      return { label: `Mark fault ${fault.number}`, changes: [added('fault', fault)] };
    }
    case 'addFaults': {
      const grown = { ...document, faults: document.faults.slice() };
      const changes = edit.faults.flatMap(({ kind, shapes, found }, n) => {
        if (isEmpty(boundsOfShapes(shapes, size.width, size.height))) return [];
        const fault = { ...newFault(grown, shapes, kind, size, advice[n], habits[kind]), found };
        grown.faults.push(fault);
        return [added('fault', fault)];
      });
      if (!changes.length) throw new Refused('None of these lies on the picture.');
      if (!edit.replaces) return { label: `Take ${changes.length} into the worklist`, changes };
      const numbers = changes.map((c) => (c.after as Fault).number);
      const [first, last] = [numbers[0], numbers[numbers.length - 1]];
      const label = last > first ? `Mark faults ${first} to ${last}` : `Mark fault ${first}`;
      return { label, changes: [...changes, ...replaced(document, edit.replaces)] };
    }
    case 'changeFault': {
      const fault = find(document.faults, edit.id, 'fault');
      if (edit.set.shapes && isEmpty(boundsOfShapes(edit.set.shapes, size.width, size.height))) {
        throw new Refused('Nothing of the cover would be left. Remove the fault instead.');
      }
      const changes = [changed('fault', fault, { ...fault, ...edit.set })];
      if (edit.set.shapes || edit.set.margin !== undefined || edit.set.feather !== undefined) {
        // A treated fault's repair follows its cover; every try gets the new one and is rendered again.
        for (const repair of document.repairs.filter((r) => r.faultIds.includes(fault.id))) {
          changes.push(
            changed(
              'repair',
              repair,
              withCover(
                repair,
                document.faults.map((f) => (f.id === fault.id ? { ...f, ...edit.set } : f)),
              ),
            ),
          );
        }
      }
      const what = edit.set.state ? `Fault ${fault.number} ${edit.set.state}` : `Change fault ${fault.number}`;
      return { label: what, changes };
    }
    case 'removeFault': {
      const fault = find(document.faults, edit.id, 'fault');
      const own = document.repairs.filter((r) => r.faultIds.includes(fault.id));
      const changes: Change[] = [removed('fault', fault)];
      for (const repair of own) {
        const faultIds = repair.faultIds.filter((id) => id !== fault.id);
        if (faultIds.length)
          changes.push(changed('repair', repair, withCover({ ...repair, faultIds }, document.faults)));
        else changes.push(removed('repair', repair));
      }
      return { label: `Remove fault ${fault.number}`, changes };
    }
    case 'addLayer':
      return { label: `Add layer ${edit.name}`, changes: [added('layer', newLayer(document, edit.name))] };
    case 'changeLayer': {
      const layer = find(document.layers, edit.id, 'layer');
      const what = edit.set.reveal ? 'Hide and show parts of' : 'Change';
      return { label: `${what} layer ${layer.name}`, changes: [changed('layer', layer, { ...layer, ...edit.set })] };
    }
    case 'moveLayer': {
      const layer = find(document.layers, edit.id, 'layer');
      const rest = document.layers.filter((l) => l !== layer);
      rest.splice(Math.min(edit.to, rest.length), 0, layer);
      const changes = rest.flatMap((l, i) => (l.order === i + 1 ? [] : [changed('layer', l, { ...l, order: i + 1 })]));
      return { label: `Move layer ${layer.name}`, changes };
    }
    case 'removeLayer': {
      const layer = find(document.layers, edit.id, 'layer');
      const own = document.repairs.filter((r) => r.layerId === layer.id);
      return {
        label: `Delete layer ${layer.name}`,
        changes: [removed('layer', layer), ...own.map((r) => removed('repair', r)), ...reopened(document, own)],
      };
    }
    case 'changeRepair': {
      const repair = find(document.repairs, edit.id, 'repair');
      if (edit.set.chosen) find(repair.tries, edit.set.chosen, 'try');
      if (edit.set.layerId) find(document.layers, edit.set.layerId, 'layer');
      const label = Object.keys(edit.set).map((k) => LABELS[k])[0] ?? 'Change repair';
      return { label, changes: [changed('repair', repair, { ...repair, ...edit.set })] };
    }
    case 'setStrength': {
      const own = document.repairs.filter((r) => edit.ids.includes(r.id) && r.strength !== edit.strength);
      if (!own.length) throw new Refused('These repairs no longer exist, or have this strength already.', 409);
      return {
        label: `Set strength of ${own.length} repairs`,
        changes: own.map((r) => changed('repair', r, { ...r, strength: edit.strength })),
      };
    }
    case 'renew': {
      const changes = edit.ids.flatMap((id) => {
        const repair = find(document.repairs, id, 'repair');
        const renew = (t: Repair['tries'][number]) =>
          t.id === repair.chosen && isEarlier(t.spec) ? { ...t, spec: renewed(t.spec) } : t;
        const tries = repair.tries.map(renew);
        return tries.some((t, n) => t !== repair.tries[n]) ? [changed('repair', repair, { ...repair, tries })] : [];
      });
      if (!changes.length) throw new Refused('These repairs are made by the present version already.', 409);
      return { label: changes.length > 1 ? `Make ${changes.length} repairs anew` : 'Make a repair anew', changes };
    }
    case 'placeRepair':
    case 'addStrokes':
    case 'changeSpec':
    case 'bringBack':
      return workOutByHand(document, edit, size, advice, habits);
    case 'duplicateLayer':
    case 'mergeLayer':
      return workOutLayers(document, edit);
    case 'removeRepair': {
      const repair = find(document.repairs, edit.id, 'repair');
      return { label: 'Delete repair', changes: [removed('repair', repair), ...reopened(document, [repair])] };
    }
  }
}

/** Removes repairs; faults that nothing treats any longer are open again. */
export function planRemoval(document: PictureDocument, repairs: Repair[]): Change[] {
  return [...repairs.map((r) => removed('repair', r)), ...reopened(document, repairs)];
}

/** What an edit tells of how the editor likes a kind of fault to be treated; null when it tells nothing. */
export function habitOf(document: PictureDocument, edit: Edit): { kind: FaultKind; set: Partial<KindDefaults> } | null {
  if (edit.type === 'changeFault') {
    const fault = document.faults.find((f) => f.id === edit.id);
    const { margin, feather } = edit.set;
    const set: Partial<KindDefaults> = {};
    if (margin !== undefined && fault?.advice?.margin !== undefined) set.margin = margin - fault.advice.margin;
    if (feather !== undefined && fault?.advice?.feather !== undefined) set.feather = feather - fault.advice.feather;
    return fault && Object.keys(set).length ? { kind: fault.kind, set } : null;
  }
  if (edit.type === 'changeRepair' && edit.set.strength !== undefined) {
    const repair = document.repairs.find((r) => r.id === edit.id);
    const fault = document.faults.find((f) => f.id === repair?.faultIds[0]);
    return fault && repair?.faultIds.length === 1 ? { kind: fault.kind, set: { strength: edit.set.strength } } : null;
  }
  return null;
}

/** The same repair over the present covers of its faults. */
export function withCover(repair: Repair, faults: Fault[]): Repair {
  const own = faults.filter((f) => repair.faultIds.includes(f.id));
  if (!own.length) return repair;
  const cover = own.flatMap((f) => f.shapes);
  const margin = Math.max(...own.map((f) => f.margin));
  const feather = Math.max(...own.map((f) => f.feather));
  const whole = [...cover, ...(repair.portion ?? [])];
  const spec = (s: RepairSpec) => (s.method === 'fill' ? { ...s, cover: whole, margin, feather } : s);
  return { ...repair, tries: repair.tries.map((t) => ({ ...t, spec: spec(t.spec) })) };
}
