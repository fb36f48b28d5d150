import type { Edit } from '../../contract/api.ts';
import type { FaultKind, PictureDocument } from '../../contract/document.ts';
import type { KindDefaults } from '../../core/plan/habits.ts';

/** What an edit tells of how the editor likes a kind of fault to be treated; null when it tells nothing. */
export function defaultsTold(
  document: PictureDocument,
  edit: Edit,
): { kind: FaultKind; set: Partial<KindDefaults> } | null {
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
