import { deflateRawSync, inflateRawSync } from 'node:zlib';
import { and, asc, eq, gte, inArray, lt, sql } from 'drizzle-orm';
import type {
  EntityKind,
  Fault,
  Layer,
  Operation,
  PictureDocument,
  Repair,
  Row,
  Step,
} from '../../contract/document.ts';
import { applyToRow } from '../../document/operations.ts';
import type { Database } from './database.ts';
import { faults, items, layers, repairs, steps } from './schema.ts';

const TABLES = { fault: faults, layer: layers, repair: repairs, step: steps } as const;

/** Lists that are longer stand in rows of their own. */
const INLINE = 16;

export const pack = (value: unknown): Buffer => deflateRawSync(Buffer.from(JSON.stringify(value)));
export const unpack = <T>(bytes: Uint8Array): T => JSON.parse(inflateRawSync(bytes).toString()) as T;

type Holder = Record<string, unknown>;

/** Where a row may hold long lists: their name, and the object and key that hold each. */
function placesOf(kind: EntityKind, row: Row): Array<{ list: string; holder: Holder; key: string }> {
  if (kind === 'step') return [];
  if (kind === 'fault') return [{ list: 'shapes', holder: row, key: 'shapes' }];
  const own = [{ list: 'reveal', holder: row as unknown as Holder, key: 'reveal' }];
  if (kind === 'layer') return own;
  const tries = (row as Repair).tries.flatMap((t) =>
    ['strokes', 'cover'].map((key) => ({ list: `${key}:${t.id}`, holder: t.spec, key })),
  );
  return [...own, ...tries];
}

/** A row that can be changed without changing the given one: copied as far down as lists are held. */
function opened(kind: EntityKind, row: Row): Row {
  if (kind !== 'repair') return { ...row };
  const repair = row as Repair;
  return { ...repair, tries: repair.tries.map((t) => ({ ...t, spec: { ...t.spec } })) };
}

/** Takes long lists out of a row; null stands in their place. */
function slim(kind: EntityKind, row: Row): { slim: Row; lists: Map<string, unknown[]>; kept: Set<string> } {
  const copy = opened(kind, row);
  const lists = new Map<string, unknown[]>();
  const kept = new Set<string>();
  for (const { list, holder, key } of placesOf(kind, copy)) {
    const value = holder[key];
    if (value === null) kept.add(list);
    else if (Array.isArray(value) && value.length > INLINE) {
      lists.set(list, value);
      holder[key] = null;
    }
  }
  return { slim: copy, lists, kept };
}

/** All rows of a picture, with their lists. */
export function readDocument(db: Database, pictureId: string): PictureDocument {
  const lists = new Map<string, unknown[]>();
  const parts = db
    .select({ rowId: items.rowId, list: items.list, doc: items.doc })
    .from(items)
    .where(eq(items.pictureId, pictureId))
    .orderBy(asc(items.rowId), asc(items.list), asc(items.position))
    .all();
  for (const { rowId, list, doc } of parts) {
    const name = `${rowId}/${list}`;
    const own = lists.get(name);
    if (own) own.push(unpack(doc));
    else lists.set(name, [unpack(doc)]);
  }
  const read = <T extends Row>(kind: EntityKind): T[] =>
    db
      .select({ doc: TABLES[kind].doc })
      .from(TABLES[kind])
      .where(eq(TABLES[kind].pictureId, pictureId))
      .all()
      .map(({ doc }) => {
        for (const { list, holder, key } of placesOf(kind, doc))
          if (holder[key] === null) holder[key] = lists.get(`${doc.id}/${list}`) ?? [];
        return doc as T;
      });
  return {
    faults: read<Fault>('fault').sort((a, b) => a.number - b.number),
    layers: read<Layer>('layer').sort((a, b) => a.order - b.order),
    repairs: read<Repair>('repair').sort((a, b) => a.order - b.order),
    steps: read<Step>('step').sort((a, b) => a.order - b.order),
  };
}

function writeItems(
  tx: Database,
  pictureId: string,
  rowId: string,
  list: string,
  from: number,
  values: unknown[],
): void {
  values.forEach((value, n) => {
    tx.insert(items)
      .values({ pictureId, rowId, list, position: from + n, doc: pack(value) })
      .run();
  });
}

function writeRow(tx: Database, pictureId: string, kind: EntityKind, row: Row): void {
  const { slim: doc, lists, kept } = slim(kind, row);
  const table = TABLES[kind];
  tx.delete(table).where(eq(table.id, row.id)).run();
  tx.insert(table)
    .values({ id: row.id, pictureId, doc: doc as never })
    .run();
  const standing = tx.selectDistinct({ list: items.list }).from(items).where(eq(items.rowId, row.id)).all();
  const old = standing.map((s) => s.list).filter((list) => !kept.has(list));
  if (old.length)
    tx.delete(items)
      .where(and(eq(items.rowId, row.id), inArray(items.list, old)))
      .run();
  for (const [list, values] of lists) writeItems(tx, pictureId, row.id, list, 0, values);
}

/** The list of a row that a path leads to, where that list stands in rows of its own. */
function listAt(kind: EntityKind, row: Row, path: ReadonlyArray<string | number>): string | null {
  let holder: unknown = row;
  for (const key of path.slice(0, -1)) holder = (holder as Record<string | number, unknown>)[key];
  const key = path[path.length - 1];
  const place = placesOf(kind, row).find((p) => p.holder === holder && p.key === key);
  return place && place.holder[place.key] === null ? place.list : null;
}

function splice(
  tx: Database,
  pictureId: string,
  rowId: string,
  list: string,
  { at, removed, added }: { at: number; removed: unknown[]; added: unknown[] },
): void {
  const own = and(eq(items.rowId, rowId), eq(items.list, list));
  const behind = at + removed.length;
  if (removed.length)
    tx.delete(items)
      .where(and(own, gte(items.position, at), lt(items.position, behind)))
      .run();
  const shift = added.length - removed.length;
  if (shift !== 0) {
    // By way of negative positions, since two rows must never meet on one.
    tx.update(items)
      .set({ position: sql`-1 - ${items.position}` })
      .where(and(own, gte(items.position, behind)))
      .run();
    tx.update(items)
      .set({ position: sql`-1 - ${items.position} + ${shift}` })
      .where(and(own, lt(items.position, 0)))
      .run();
  }
  writeItems(tx, pictureId, rowId, list, at, added);
}

/** Puts one operation into the rows. */
export function writeOperation(tx: Database, pictureId: string, o: Operation): void {
  const table = TABLES[o.kind];
  if (o.op === 'put') {
    if (o.after) return writeRow(tx, pictureId, o.kind, o.after);
    tx.delete(table).where(eq(table.id, o.id)).run();
    tx.delete(items).where(eq(items.rowId, o.id)).run();
    return;
  }
  const row = tx.select({ doc: table.doc }).from(table).where(eq(table.id, o.id)).get()?.doc;
  if (!row) throw new Error(`There is no ${o.kind} ${o.id} to change.`);
  const list = o.op === 'splice' ? listAt(o.kind, row, o.path) : null;
  if (list && o.op === 'splice') return splice(tx, pictureId, o.id, list, o);
  writeRow(tx, pictureId, o.kind, applyToRow(row, o)!);
}
