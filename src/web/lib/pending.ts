import { useMemo, useSyncExternalStore } from 'react';
import type { Edit, PictureState } from '../../contract/api.ts';
import type { PictureDocument } from '../../contract/document.ts';

/** Edits asked for and not yet answered, by picture. */
let pending: ReadonlyMap<string, readonly Edit[]> = new Map();
const listeners = new Set<() => void>();

function put(pictureId: string, edits: readonly Edit[]): void {
  pending = new Map(pending).set(pictureId, edits);
  listeners.forEach((l) => l());
}

/** Shows an edit as done from now on; the function returned takes it back once the server has answered. */
export function showAtOnce(pictureId: string, edit: Edit): () => void {
  put(pictureId, [...(pending.get(pictureId) ?? []), edit]);
  return () =>
    put(
      pictureId,
      (pending.get(pictureId) ?? []).filter((e) => e !== edit),
    );
}

function set<T extends { id: string }>(list: T[], id: string, change: Partial<T>): T[] {
  return list.map((row) => (row.id === id ? { ...row, ...change } : row));
}

/** A document as it will be once an edit that only sets values is answered; other edits show when they are done. */
export function optimistic(document: PictureDocument, edit: Edit): PictureDocument {
  switch (edit.type) {
    case 'changeFault':
      return { ...document, faults: set(document.faults, edit.id, edit.set) };
    case 'changeLayer':
      return { ...document, layers: set(document.layers, edit.id, edit.set) };
    case 'changeRepair':
      return { ...document, repairs: set(document.repairs, edit.id, edit.set) };
    default:
      return document;
  }
}

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

/** The picture's state with all that was asked for and not yet answered. */
export function useForeseen(pictureId: string, state: PictureState | undefined): PictureState | undefined {
  const edits = useSyncExternalStore(subscribe, () => pending.get(pictureId));
  return useMemo(
    () => (state && edits?.length ? { ...state, document: edits.reduce(optimistic, state.document) } : state),
    [state, edits],
  );
}
