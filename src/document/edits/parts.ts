import type { Change, Fault, PictureDocument, Row } from '../../contract/document.ts';
import type { Edit } from '../../contract/api.ts';
import { Refused } from '../../contract/refused.ts';
import type { Advice } from '../../core/plan/advice.ts';
import type { KindDefaults } from '../../core/plan/habits.ts';
import { boundsOfAll } from '../../core/mask/shapes.ts';
import { boxOf, contains, grow, type Box } from '../../core/raster/raster.ts';

/** An edit worked out: what it is called in undo and redo, and the rows it changes. */
export interface PlannedEdit {
  label: string;
  changes: Change[];
}

/** Of a source, px. */
export interface Size {
  width: number;
  height: number;
}

/** What an edit is planned with beside the document. */
export interface Planning {
  source: Size;
  /** the canvas, on which marks must lie */
  area: Box;
  /** what is proposed for each mark that the edit makes, in their order */
  advice: readonly Advice[];
  /** how the editor last changed what was proposed, by kind */
  habits: Record<string, KindDefaults>;
  /** names the rows that the edit makes, in the order in which it makes them */
  name(): string;
}

/** Works out what an edit of one type changes, without changing anything. @throws Refused */
export type Plan<T extends Edit['type']> = (
  document: PictureDocument,
  edit: Extract<Edit, { type: T }>,
  planning: Planning,
) => PlannedEdit;

/** What an edit names is not there any more. */
export const staleReference = (what: string) =>
  new Refused(`This ${what} no longer exists. It was removed or undone meanwhile.`, 409);

/** What has an id. @throws Refused when it is not there any more */
export function find<T extends { id: string }>(list: T[], id: string, what: string): T {
  const found = list.find((x) => x.id === id);
  if (!found) throw staleReference(what);
  return found;
}

/** A row that becomes another. */
export const changed = <K extends Change['kind'], T extends Row>(kind: K, before: T, after: T): Change => ({
  kind,
  id: before.id,
  before,
  after,
});
/** A row that comes. */
export const added = (kind: Change['kind'], after: Row): Change => ({
  kind,
  id: after.id,
  before: null,
  after,
});
/** A row that goes. */
export const removed = (kind: Change['kind'], before: Row): Change => ({
  kind,
  id: before.id,
  before,
  after: null,
});

/** Whether a gap lies within the source, as between frames that were joined, and was not added by a canvas. */
export const isOwnGap = ({ shapes }: Pick<Fault, 'shapes'>, source: Size): boolean =>
  // The box around an outline is a px wider than it.
  shapes.every((shape) =>
    contains(shape.kind === 'box' ? boxOf(source) : grow(boxOf(source), 1), boundsOfAll([shape])),
  );
