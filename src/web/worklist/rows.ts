import type { PictureState, RepairStatus } from '../../contract/api.ts';
import { FAULT_STATES, type Fault, type FaultState } from '../../contract/document.ts';
import { FAULT_KINDS, type FaultKind } from '../../core/faults/kinds.ts';
import { measureFault, thumbnailFrame, type FaultFacts } from '../../core/plan/cover.ts';
import { inOrderOfWork } from '../../core/plan/order.ts';
import { boxAround, type Box } from '../../core/raster/raster.ts';
import { verdictOf } from '../../core/check/words.ts';
import type { Viewing } from '../../core/frame/visibility.ts';
import { closeUpOf } from '../lib/api.ts';
import { canvasOfState } from '../lib/canvas.ts';
import { findingsOfTry } from '../lib/findings.ts';

/** How rows stand: as they are best worked through, or as they were marked. */
export type Order = 'work' | 'number';
/** Which rows stand there. */
export type Shown = 'all' | FaultState | FaultKind;

const measured = new WeakMap<Fault, { canvas: Box; facts: FaultFacts }>();

/** Facts of a fault, measured once for each version of it. */
export const factsOf = (fault: Fault, state: PictureState): FaultFacts => factsOn(fault, canvasOfState(state));

function factsOn(fault: Fault, canvas: Box): FaultFacts {
  let known = measured.get(fault);
  if (known?.canvas !== canvas) measured.set(fault, (known = { canvas, facts: measureFault(fault.shapes, canvas) }));
  return known.facts;
}

/** A fault's size in one figure, px: across where it is long and thin, else its long side. */
export function sizeOf(facts: FaultFacts): number {
  const long = Math.max(facts.bounds.width, facts.bounds.height);
  return Math.round(long > 4 * facts.width ? facts.width : long);
}

/** The same of a fault: a traced strand is as wide as it was measured, its cover takes in its soft edge too. */
export const sizeOfFault = (fault: Fault, state: PictureState): number =>
  fault.line ? Math.max(1, Math.round(fault.line.width)) : sizeOf(factsOf(fault, state));

/** Side in px of a thumbnail, twice its size on screen. */
const THUMBNAIL = 64;

/** Address of a square around a fault. */
export function thumbnailOf(fault: Fault, state: PictureState): string {
  const canvas = canvasOfState(state);
  const { middle, side } = thumbnailFrame(factsOf(fault, state));
  const least = Math.min(side, canvas.width, canvas.height);
  const box = boxAround(middle, { width: least, height: least }, canvas);
  return closeUpOf(state.picture.id, box, state.pixels, THUMBNAIL);
}

/** Faults of a picture in an order. @param canvas the picture's */
export function orderedFaults(faults: Fault[], canvas: Box, order: Order): Fault[] {
  if (order === 'number') return faults;
  const rows = faults.map((fault) => {
    const { bounds, width } = factsOn(fault, canvas);
    return { id: fault.id, kind: fault.kind, box: bounds, across: width, fault };
  });
  return inOrderOfWork(rows).map((r) => r.fault);
}

/** Kinds and states that there are among faults, to choose from. */
export function choicesOf(faults: readonly Fault[]): { kinds: FaultKind[]; states: FaultState[] } {
  const kinds = new Set(faults.map((f) => f.kind));
  const states = new Set(faults.map((f) => f.state));
  return { kinds: FAULT_KINDS.filter((k) => kinds.has(k)), states: FAULT_STATES.filter((s) => states.has(s)) };
}

/** The list as it stands: what is to be done, and what is done with, which folds away. */
export interface Parted {
  open: Fault[];
  done: Fault[];
}

/** Rows that are shown, what is done with apart. */
export function partedRows(faults: readonly Fault[], shown: Shown): Parted {
  const rows = shown === 'all' ? faults : faults.filter((f) => f.state === shown || f.kind === shown);
  return { open: rows.filter((f) => f.state === 'open'), done: rows.filter((f) => f.state !== 'open') };
}

/** How a treated fault's repairs stand where that is not done: the worst of them. */
export type Standing = 'failed' | 'being made' | 'will be updated';
const WORST: readonly Standing[] = ['will be updated', 'being made', 'failed'];
const STANDINGS: Partial<Record<RepairStatus['state'], Standing>> = {
  failed: 'failed',
  working: 'being made',
  stale: 'will be updated',
};

/** Faults whose repairs are not done, and why those failed that did. */
export function standings({
  document,
  statuses,
}: Pick<PictureState, 'document' | 'statuses'>): Map<string, { word: Standing; message?: string }> {
  const byId = new Map(statuses.map((s) => [s.id, s]));
  const out = new Map<string, { word: Standing; message?: string }>();
  for (const repair of document.repairs) {
    const status = byId.get(repair.id);
    const word = STANDINGS[status?.state ?? 'working'];
    if (!word) continue;
    for (const id of repair.faultIds)
      if (WORST.indexOf(word) > WORST.indexOf(out.get(id)?.word ?? 'will be updated') || !out.has(id))
        out.set(id, { word, ...(status?.message && { message: status.message }) });
  }
  return out;
}

/** Which rows are shown: all of them where none of the chosen kind or state is left. */
export const shownRows = (shown: Shown, { kinds, states }: ReturnType<typeof choicesOf>): Shown =>
  shown === 'all' || kinds.some((k) => k === shown) || states.some((s) => s === shown) ? shown : 'all';

/** What checks object to in the repairs of faults, and those that were not sure, by fault: only what would be seen. */
export function looksAgain(state: PictureState, viewing: Viewing): Map<string, string> {
  const out = new Map<string, string>();
  const byId = new Map(state.statuses.map((s) => [s.id, s]));
  for (const repair of state.document.repairs) {
    const status = byId.get(repair.id);
    const reason = status?.tries[repair.chosen]?.reason ?? '';
    const verdict = verdictOf(findingsOfTry(status, repair.chosen, state, viewing) ?? []);
    const unsure = reason.startsWith('Not sure') ? reason : verdict && `Look again: ${verdict}.`;
    if (unsure) for (const id of repair.faultIds) out.set(id, unsure);
  }
  return out;
}
