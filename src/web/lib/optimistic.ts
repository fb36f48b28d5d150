import { useMemo, useSyncExternalStore } from 'react';
import type { Edit, PictureState } from '../../contract/api.ts';
import type { Operation, PictureDocument } from '../../contract/document.ts';
import { rowNames } from '../../contract/ids.ts';
import { Refused } from '../../contract/refused.ts';
import { planEdit } from '../../document/edits/plan-edit.ts';
import { applyOperations, invert, operationsOf } from '../../document/operations.ts';

/** What somebody did here, as undo takes it back; without operations where only the server knows them. */
interface Step {
  label: string | null;
  operations: Operation[] | null;
}

/** What is asked for and not answered yet: operations to show meanwhile. */
interface Pending {
  /** where they are worked out only once the picture is known: from its state and the document so far */
  operations: Operation[] | ((state: PictureState, document: PictureDocument) => Operation[]);
  undo: string | null;
  redo: string | null;
}

/** Something that was asked for and is shown. */
export interface Asked {
  /** the answer is here, and will be shown instead */
  end(): void;
  /** what undo calls it by now; null where it was refused */
  answered(label: string | null): void;
}

/** Marks that are taken in by thousands show when they are done. */
const MANY = 100;

/** What this window did to a picture, and what of it the server has not answered. */
export class Optimist {
  private done: Step[] = [];
  private undone: Step[] = [];
  private pending: readonly Pending[] = [];
  private readonly listeners = new Set<() => void>();

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  readonly unanswered = (): readonly Pending[] => this.pending;

  /**
   * Shows an edit as done from now on.
   * @param state as the server knows it
   * @param request name of the request, from which rows get their names
   */
  edit(state: PictureState | undefined, edit: Edit, request: string): Asked {
    const operations = state ? this.plan(state, this.shown(state).document, edit, request) : null;
    const step: Step = { label: operations?.label ?? null, operations: operations?.made ?? null };
    return this.show(step, step.operations, step.label, null);
  }

  /** Shows an edit that an earlier window left unanswered, once the picture is known; not where the server has it already. */
  again(edit: Edit, request: string): Asked {
    const operations = (state: PictureState, document: PictureDocument) => {
      const made = this.plan(state, document, edit, request)?.made ?? [];
      return made.some((o) => o.op === 'put' && o.before === null && isThere(document, o.id)) ? [] : made;
    };
    return this.show({ label: null, operations: null }, operations, null, null);
  }

  /** Something that only the server can work out, such as a fill: undo of it shows once it is answered. */
  unknown(): Asked {
    return this.show({ label: null, operations: null }, null, null, null);
  }

  /** Takes the last step back, or the next one forward again, from now on. */
  step(state: PictureState | undefined, direction: 'undo' | 'redo'): Asked {
    const [from, to] = direction === 'undo' ? [this.done, this.undone] : [this.undone, this.done];
    // With nothing on its way, both sides must mean the same step; others may have worked on the picture.
    const label = from.at(-1)?.label;
    if (!this.pending.length && state && label && label !== state[direction]) from.length = 0;
    const step = from.pop();
    if (!step) return { end: () => undefined, answered: () => undefined };
    to.push(step);
    const operations = step.operations && (direction === 'undo' ? invert(step.operations) : step.operations);
    const end = this.wait(operations, this.done.at(-1)?.label ?? null, this.undone.at(-1)?.label ?? null);
    return { end, answered: () => undefined };
  }

  /** A picture's state with all that is asked for and not answered. */
  shown(state: PictureState, pending = this.pending): PictureState {
    const last = pending.at(-1);
    if (!last) return state;
    const document = pending.reduce(
      (d, { operations }) => applied(d, typeof operations === 'function' ? operations(state, d) : operations),
      state.document,
    );
    return { ...state, document, undo: last.undo ?? state.undo, redo: last.redo };
  }

  private plan(
    state: PictureState,
    document: PictureDocument,
    edit: Edit,
    request: string,
  ): { label: string; made: Operation[] } | null {
    if (edit.type === 'addFaults' && edit.faults.length > MANY) return null;
    const { width, height } = state.picture.facts;
    try {
      const { label, changes } = planEdit(document, edit, { width, height }, [], {}, rowNames(request));
      return { label, made: operationsOf(changes) };
    } catch (error) {
      // The server refuses it as well, and says why.
      if (error instanceof Refused) return null;
      throw error;
    }
  }

  private show(step: Step, operations: Pending['operations'] | null, undo: string | null, redo: string | null): Asked {
    this.done.push(step);
    this.undone = [];
    return {
      end: this.wait(operations, undo, redo),
      answered: (label) => {
        if (label === null) this.done = this.done.filter((s) => s !== step);
        else step.label = label;
      },
    };
  }

  private wait(operations: Pending['operations'] | null, undo: string | null, redo: string | null): () => void {
    const item: Pending = { operations: operations ?? [], undo, redo };
    this.put([...this.pending, item]);
    return () => this.put(this.pending.filter((p) => p !== item));
  }

  private put(pending: readonly Pending[]): void {
    this.pending = pending;
    this.listeners.forEach((l) => l());
  }
}

const isThere = ({ faults, layers, repairs, steps }: PictureDocument, id: string) =>
  [faults, layers, repairs, steps].some((rows) => rows.some((row) => row.id === id));

/** A document after operations; as it is where they do not fit it any more. */
function applied(document: PictureDocument, operations: readonly Operation[]): PictureDocument {
  if (!operations.length) return document;
  try {
    return applyOperations(document, operations);
  } catch {
    return document;
  }
}

const optimists = new Map<string, Optimist>();

export function optimistOf(pictureId: string): Optimist {
  let optimist = optimists.get(pictureId);
  if (!optimist) optimists.set(pictureId, (optimist = new Optimist()));
  return optimist;
}

/** The picture's state with all that was asked for and not yet answered. */
export function useOptimistic(pictureId: string, state: PictureState | undefined): PictureState | undefined {
  const optimist = optimistOf(pictureId);
  const pending = useSyncExternalStore(optimist.subscribe, optimist.unanswered);
  return useMemo(() => state && optimist.shown(state, pending), [state, optimist, pending]);
}
