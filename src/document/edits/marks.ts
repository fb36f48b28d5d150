import type { Edit } from '../../contract/api.ts';
import type { Fault, PictureDocument } from '../../contract/document.ts';

/** Marks that an edit makes or changes, in order, and for which something is proposed. */
export function marksOf(document: PictureDocument, edit: Edit): Array<Pick<Fault, 'kind' | 'shapes'>> {
  if (edit.type === 'all') return edit.edits.flatMap((one) => marksOf(document, one));
  if (edit.type === 'addFault') return [edit];
  if (edit.type === 'addFaults') return edit.faults;
  if (edit.type === 'placeRepair') return edit.mark ? [edit.mark] : [];
  if (edit.type !== 'changeFault' || !(edit.set.kind ?? edit.set.shapes)) return [];
  return document.faults.filter((f) => f.id === edit.id && f.state === 'open').map((f) => ({ ...f, ...edit.set }));
}
