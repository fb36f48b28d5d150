import type { SurveyFind } from '../../contract/survey.ts';
import { FAULT_KINDS, kindFacts, type FaultKind } from '../../core/faults/kinds.ts';
import { scoreFor } from '../../core/find/find.ts';
import { count } from '../lib/format.ts';
import { visibilityOf, type Visibility, type Viewing } from '../../core/frame/visibility.ts';

/** Name of a group. */
export const nameOf = (kind: FaultKind): string => kindFacts(kind).found ?? kindFacts(kind).plural;

/** Finds of one kind. */
export interface Group {
  kind: FaultKind;
  all: SurveyFind[];
}

export function groupsOf(finds: SurveyFind[]): Group[] {
  const kinds = new Map<FaultKind, SurveyFind[]>();
  for (const f of finds) kinds.set(f.kind, [...(kinds.get(f.kind) ?? []), f]);
  const place = (kind: FaultKind) => kindFacts(kind).stage * 100 + FAULT_KINDS.indexOf(kind);
  // In the order in which they are treated.
  return [...kinds].map(([kind, all]) => ({ kind, all })).sort((a, b) => place(a.kind) - place(b.kind));
}

/** The finds of a group that a sensitivity shows, surest first; what is in the worklist is always shown. */
export const shownOf = (group: Group, sensitivity: number, taken: Record<string, string>): SurveyFind[] =>
  group.all.filter((f) => f.score >= scoreFor(sensitivity) || taken[f.id]);

export const seenOf = (f: SurveyFind, longSidePx: number, viewing: Viewing): Visibility =>
  visibilityOf({ acrossPx: f.width, alongPx: f.length, difference: f.difference }, longSidePx, viewing);

/** Sides in px between which a thumbnail's piece of the picture lies. */
const [LEAST, MOST] = [72, 1200];
const longSide = (f: SurveyFind) => Math.max(f.box.width, f.box.height);
const within = (side: number) => Math.round(Math.min(MOST, Math.max(LEAST, side)));

/**
 * Side in px of the picture that each thumbnail of a group shows: the same for all, so that they are seen equally large;
 * where some are many times as large as others, each what it needs, or the small ones would not be seen at all.
 */
export function spansOf(finds: SurveyFind[]): (f: SurveyFind) => number {
  const sizes = finds.map(longSide).sort((a, b) => a - b);
  const usual = sizes[Math.floor(sizes.length * 0.8)] ?? 30;
  const small = sizes[Math.floor(sizes.length * 0.2)] ?? 30;
  if (usual > 150 && usual > 3 * small) return (f) => within(longSide(f) * 1.5);
  return () => within(usual * 2.2);
}

/** Words on the button that treats what is left of a group. */
export function treatWords(left: number, name: string): string {
  if (left === 0) return `No ${name} left to treat`;
  return left === 1 ? 'Treat this one' : `Treat all ${count(left)} ${name}`;
}

/** How many of a group can be seen at delivery, in words. */
export function seenWords(seen: number, all: number): string {
  if (seen < all) return `${count(seen)} of ${count(all)} seen at delivery`;
  return all === 1 ? 'seen at delivery' : `all ${count(all)} seen at delivery`;
}

/** Sides in px between which the cells of a contact sheet lie. */
const [SMALLEST, LARGEST] = [92, 280];

/** Side in px of the cells of a contact sheet: so large that all finds fill the room, and no smaller than can be judged. */
export function cellFor(finds: number, width: number, height: number, gap: number): number {
  for (let cell = LARGEST; cell > SMALLEST; cell -= 4) {
    const across = Math.floor((width + gap) / (cell + gap));
    if (across > 0 && Math.ceil(finds / across) * (cell + gap) - gap <= height) return cell;
  }
  return SMALLEST;
}
