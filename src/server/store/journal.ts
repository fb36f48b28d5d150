import { and, eq, gt, inArray, lt } from 'drizzle-orm';
import type { Fault, Operation } from '../../contract/document.ts';
import { invert, operationsOf } from '../../document/operations.ts';
import { Refused } from '../../contract/refused.ts';
import { inTransaction, type Database } from './database.ts';
import { pack, unpack, writeOperation } from './rows.ts';
import { edits, pictures, requests } from './schema.ts';

/** A request that must be done once: its name, where it came in, what it asked. */
export interface RequestName {
  route: string;
  name: string;
  /** SHA-256 of what was asked */
  digest: string;
  /** the window it came from */
  window?: string;
}

/** How long answered requests are remembered: longer than any browser goes on asking. */
const REMEMBERED_MS = 7 * 24 * 3600 * 1000;

function row(tx: Database, pictureId: string) {
  const found = tx.select().from(pictures).where(eq(pictures.id, pictureId)).get();
  if (!found) throw new Refused('This picture no longer exists.', 404);
  return found;
}

/** What a request was answered when it came before. @throws Refused when its name stood for another request */
export function answerOf(db: Database, pictureId: string, request: RequestName): { answer: unknown } | null {
  const known = db
    .select()
    .from(requests)
    .where(and(eq(requests.pictureId, pictureId), eq(requests.route, request.route), eq(requests.name, request.name)))
    .get();
  if (!known) return null;
  if (known.digest !== request.digest)
    throw new Refused('This Idempotency-Key was used for another request. Use a new one for each request.', 422);
  return { answer: known.answer };
}

function remember(tx: Database, pictureId: string, request: RequestName | undefined, answer: unknown): void {
  if (!request) return;
  const at = Date.now();
  tx.delete(requests)
    .where(lt(requests.at, at - REMEMBERED_MS))
    .run();
  tx.insert(requests)
    .values({ pictureId, ...request, answer: answer ?? null, at })
    .run();
}

/** Puts an edit in force and in the journal; edits that were undone before are forgotten. @returns the new revision */
export function applyEdit(
  db: Database,
  pictureId: string,
  label: string,
  operations: Operation[],
  request?: RequestName,
  answer?: unknown,
): number {
  return inTransaction(db, (tx) => {
    const { cursor, revision } = row(tx, pictureId);
    tx.delete(edits)
      .where(and(eq(edits.pictureId, pictureId), gt(edits.number, cursor)))
      .run();
    const number = cursor + 1;
    tx.insert(edits)
      .values({ pictureId, number, label, changes: [], operations: pack(operations), at: Date.now() })
      .run();
    for (const o of operations) writeOperation(tx, pictureId, o);
    remember(tx, pictureId, request, answer);
    tx.update(pictures)
      .set({ cursor: number, revision: revision + 1 })
      .where(eq(pictures.id, pictureId))
      .run();
    return revision + 1;
  });
}

/** What an edit did, whichever studio wrote it down. */
const operationsIn = ({ operations, changes }: typeof edits.$inferSelect): Operation[] =>
  operations ? unpack<Operation[]>(operations) : operationsOf(changes);

/** A row of a picture, whatever it holds. */
export type RowName = Pick<Operation, 'kind' | 'id'>;

/**
 * Adds to an edit that is in force, so that undo takes back both at once. What was done after it, also if that was undone and may
 * come again, must not have touched the same rows: then order does not matter.
 * @param untouched other rows that nothing may have touched since
 * @returns the new revision; null where the edit is undone, or one of the rows was touched since
 */
export function amendEdit(
  db: Database,
  pictureId: string,
  number: number,
  operations: Operation[],
  untouched: readonly RowName[] = [],
): number | null {
  return inTransaction(db, (tx) => {
    const { cursor, revision } = row(tx, pictureId);
    const own = and(eq(edits.pictureId, pictureId), eq(edits.number, number));
    const edit = tx.select().from(edits).where(own).get();
    if (cursor < number || !edit?.operations) return null;
    const later = tx
      .select()
      .from(edits)
      .where(and(eq(edits.pictureId, pictureId), gt(edits.number, number)))
      .all();
    const nameOf = ({ kind, id }: RowName) => `${kind} ${id}`;
    const rows = new Set([...operations, ...untouched].map(nameOf));
    if (later.some((e) => operationsIn(e).some((o) => rows.has(nameOf(o))))) return null;
    const all = [...unpack<Operation[]>(edit.operations), ...operations];
    tx.update(edits)
      .set({ operations: pack(all) })
      .where(own)
      .run();
    for (const o of operations) writeOperation(tx, pictureId, o);
    tx.update(pictures)
      .set({ revision: revision + 1 })
      .where(eq(pictures.id, pictureId))
      .run();
    return revision + 1;
  });
}

/** What a state was called in studios before version 8 of the store. */
const FORMERLY: Record<string, Fault['state']> = { checked: 'accepted' };

/** Puts an operation of an older studio into the words that are used now, in place. */
function inPresentWords(o: Operation): void {
  if (o.kind !== 'fault' || o.op === 'splice' || (o.op === 'set' && o.path[0] !== 'state')) return;
  for (const side of ['before', 'after'] as const) {
    if (o.op === 'set') o[side] = FORMERLY[o[side] as string] ?? o[side];
    else if (o[side]) (o[side] as Fault).state = FORMERLY[(o[side] as Fault).state] ?? (o[side] as Fault).state;
  }
}

/** Takes the last edit in force back (`-1`) or the next one forward again (`1`); null when there is none. */
export function step(
  db: Database,
  pictureId: string,
  direction: -1 | 1,
  request?: RequestName,
): { label: string; operations: Operation[]; revision: number } | null {
  return inTransaction(db, (tx) => {
    const { cursor, revision } = row(tx, pictureId);
    const number = direction < 0 ? cursor : cursor + 1;
    const edit = tx
      .select()
      .from(edits)
      .where(and(eq(edits.pictureId, pictureId), eq(edits.number, number)))
      .get();
    remember(tx, pictureId, request, edit?.label);
    if (!edit) return null;
    const forward = operationsIn(edit);
    for (const o of forward) inPresentWords(o);
    const operations = direction < 0 ? invert(forward) : forward;
    for (const o of operations) writeOperation(tx, pictureId, o);
    tx.update(pictures)
      .set({ cursor: cursor + direction, revision: revision + 1 })
      .where(eq(pictures.id, pictureId))
      .run();
    return { label: edit.label, operations, revision: revision + 1 };
  });
}

/** Labels of what undo and redo would do. */
export function steps(db: Database, pictureId: string): { undo: string | null; redo: string | null } {
  const found = db.select().from(pictures).where(eq(pictures.id, pictureId)).get();
  if (!found) return { undo: null, redo: null };
  const near = db
    .select({ number: edits.number, label: edits.label })
    .from(edits)
    .where(and(eq(edits.pictureId, pictureId), inArray(edits.number, [found.cursor, found.cursor + 1])))
    .all();
  const label = (n: number) => near.find((e) => e.number === n)?.label ?? null;
  return { undo: label(found.cursor), redo: label(found.cursor + 1) };
}
