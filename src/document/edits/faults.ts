import type { Change, Fault, FaultKind, PictureDocument } from '../../contract/document.ts';
import { newId } from '../../contract/ids.ts';
import { Refused } from '../../contract/refused.ts';
import { boundsWithin } from '../../core/mask/shapes.ts';
import type { Advice } from '../../core/plan/advice.ts';
import { measureFault, proposeCover } from '../../core/plan/cover.ts';
import { withHabit, type KindDefaults } from '../../core/plan/habits.ts';
import { isEmpty, type Box } from '../../core/raster/raster.ts';
import { added, changed, find, removed, type Plan } from './parts.ts';
import { withCover } from './repairs.ts';

/** The cover that is proposed for a mark, and what is kept of the proposal. */
function proposedFor(
  shapes: Fault['shapes'],
  kind: FaultKind,
  area: Box,
  advised: Advice | undefined,
  habit: KindDefaults | undefined,
): Pick<Fault, 'margin' | 'feather' | 'advice'> {
  if (!advised) {
    const { margin, feather } = proposeCover(measureFault(shapes, area));
    return { margin, feather };
  }
  const { reason, method, lost, edges, strength, portions, margin, feather } = withHabit(advised, habit, kind);
  return {
    margin,
    feather,
    advice: {
      reason,
      ...(method !== 'fill' && { method }),
      ...(lost && { lost }),
      ...(edges && { edges }),
      strength,
      portions,
      margin: advised.margin,
      feather: advised.feather,
    },
  };
}

/** What is proposed anew for a fault that is marked otherwise; a margin or feather that the editor has set stays. */
function proposedAnew(
  fault: Fault,
  set: Partial<Fault>,
  area: Box,
  advised: Advice,
  habit?: KindDefaults,
): Partial<Fault> {
  const next = proposedFor(set.shapes ?? fault.shapes, set.kind ?? fault.kind, area, advised, habit);
  const kept = (of: 'margin' | 'feather') => (fault.advice && fault[of] !== fault.advice[of] ? fault[of] : next[of]);
  return { advice: next.advice, margin: kept('margin'), feather: kept('feather') };
}

/** px across of a mark up to which it is looked at whether it covers anything: a drag that was a click does not. */
const THIN = 4;

/** A new fault with the next number and a proposed cover. */
export function newFault(
  document: PictureDocument,
  shapes: Fault['shapes'],
  kind: FaultKind,
  area: Box,
  advised?: Advice,
  habit?: KindDefaults,
  id = newId(),
): Fault {
  const bounds = boundsWithin(shapes, area);
  if (isEmpty(bounds)) throw new Refused('The mark lies outside the picture. Mark a place on it.');
  if (Math.min(bounds.width, bounds.height) <= THIN && !measureFault(shapes, area).area)
    throw new Refused('The mark covers nothing. Draw over the fault, or click on it with the brush.');
  const proposed = proposedFor(shapes, kind, area, advised, habit);
  const number = document.faults.reduce((n, f) => Math.max(n, f.number), 0) + 1;
  return { id, number, kind, shapes, state: 'open', ...proposed };
}

/** Open faults that go, since new ones hold them. */
function replaced(document: PictureDocument, replaces: string[]): Change[] {
  const treated = new Set(document.repairs.flatMap((r) => r.faultIds));
  return document.faults.filter((f) => replaces.includes(f.id) && !treated.has(f.id)).map((f) => removed('fault', f));
}

/** Marks a fault. */
export const addFault: Plan<'addFault'> = (document, edit, { area, advice, habits, name }) => {
  const fault = {
    ...newFault(document, edit.shapes, edit.kind, area, advice[0], habits[edit.kind], name()),
    line: edit.line,
  };
  return { label: `Mark fault ${fault.number}`, changes: [added('fault', fault)] };
};

/** Takes several finds into the worklist at once. */
export const addFaults: Plan<'addFaults'> = (document, edit, { area, advice, habits, name }) => {
  const grown = { ...document, faults: document.faults.slice() };
  const changes = edit.faults.flatMap(({ kind, shapes, found }, n) => {
    if (isEmpty(boundsWithin(shapes, area))) return [];
    const fault = { ...newFault(grown, shapes, kind, area, advice[n], habits[kind], name()), found };
    grown.faults.push(fault);
    return [added('fault', fault)];
  });
  if (!changes.length) throw new Refused('None of these lies on the picture.');
  if (!edit.replaces) return { label: `Take ${changes.length} into the worklist`, changes };
  const numbers = changes.map((c) => (c.after as Fault).number);
  const [first, last] = [numbers[0], numbers[numbers.length - 1]];
  const label = last > first ? `Mark faults ${first} to ${last}` : `Mark fault ${first}`;
  return { label, changes: [...changes, ...replaced(document, edit.replaces)] };
};

/** Changes kind, cover or state of a fault. */
export const changeFault: Plan<'changeFault'> = (document, edit, { area, advice: [advised], habits }) => {
  const fault = find(document.faults, edit.id, 'fault');
  if (edit.set.shapes && isEmpty(boundsWithin(edit.set.shapes, area))) {
    throw new Refused('Nothing of the cover would be left. Remove the fault instead.');
  }
  // While it is open its proposal goes with its mark; a treated one keeps the cover that its repair was made with.
  const anew =
    advised && fault.state === 'open'
      ? proposedAnew(fault, edit.set, area, advised, habits[edit.set.kind ?? fault.kind])
      : {};
  const changes = [changed('fault', fault, { ...fault, ...anew, ...edit.set })];
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
};

/** Removes a fault with what repairs it alone. */
export const removeFault: Plan<'removeFault'> = (document, edit) => {
  const fault = find(document.faults, edit.id, 'fault');
  const own = document.repairs.filter((r) => r.faultIds.includes(fault.id));
  const changes: Change[] = [removed('fault', fault)];
  for (const repair of own) {
    const faultIds = repair.faultIds.filter((id) => id !== fault.id);
    if (faultIds.length) changes.push(changed('repair', repair, withCover({ ...repair, faultIds }, document.faults)));
    else changes.push(removed('repair', repair));
  }
  return { label: `Remove fault ${fault.number}`, changes };
};
