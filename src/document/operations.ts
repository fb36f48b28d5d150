import type { Change, EntityKind, Operation, PictureDocument, Row, Rows, Sent } from '../contract/document.ts';

type Path = ReadonlyArray<string | number>;
type Plain = Record<string, unknown>;

const isPlain = (v: unknown): v is Plain => typeof v === 'object' && v !== null && !Array.isArray(v);
/** Keys that JSON would keep, in their order. */
const keysOf = (v: Plain) => Object.keys(v).filter((k) => v[k] !== undefined);

/** Two JSON values are alike; `undefined` counts as absent. */
export function alike(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((v, i) => alike(v, b[i]));
  if (!isPlain(a) || !isPlain(b)) return false;
  const keys = keysOf(a);
  return keys.length === keysOf(b).length && keys.every((k) => alike(a[k], b[k]));
}

type Part = { op: 'set'; path: Path; before?: unknown; after?: unknown } | SplicePart;
interface SplicePart {
  op: 'splice';
  path: Path;
  at: number;
  removed: unknown[];
  added: unknown[];
}

/** One splice that turns a list into another: what both begin and end with stays. */
function spliceOf(path: Path, a: unknown[], b: unknown[]): SplicePart | null {
  const most = Math.min(a.length, b.length);
  let at = 0;
  while (at < most && alike(a[at], b[at])) at++;
  let tail = 0;
  while (tail < most - at && alike(a[a.length - 1 - tail], b[b.length - 1 - tail])) tail++;
  const removed = a.slice(at, a.length - tail);
  const added = b.slice(at, b.length - tail);
  return removed.length || added.length ? { op: 'splice', path, at, removed, added } : null;
}

/** Lists whose elements are rows of their own and change inside; all others change by splices. */
const NESTED = new Set<string | number>(['tries']);

function compare(path: Path, a: unknown, b: unknown, out: Part[]): void {
  if (a === b) return;
  if (Array.isArray(a) && Array.isArray(b)) {
    if (NESTED.has(path[path.length - 1]) && a.length === b.length) {
      a.forEach((v, i) => compare([...path, i], v, b[i], out));
      return;
    }
    const splice = spliceOf(path, a, b);
    if (splice) out.push(splice);
    return;
  }
  if (isPlain(a) && isPlain(b)) {
    const [own, other] = [keysOf(a), keysOf(b)];
    const sameKeys = own.length === other.length && own.every((k, i) => k === other[i]);
    // Below the row itself the order of keys matters: it is part of what names a rendering.
    if (sameKeys || path.length === 0) {
      for (const k of new Set([...own, ...other])) compare([...path, k], a[k], b[k], out);
      return;
    }
  }
  if (!alike(a, b)) out.push({ op: 'set', path, before: a, after: b });
}

const plain = (row: Row): Row => JSON.parse(JSON.stringify(row)) as Row;

/** The operations that make the changes of an edit, each of which can be inverted. Sizes follow what changed, not the rows. */
export function operationsOf(changes: readonly Change[]): Operation[] {
  return changes.flatMap(({ kind, id, before, after }): Operation[] => {
    if (!before || !after) {
      if (!before && !after) return [];
      return [{ kind, id, op: 'put', before: before && plain(before), after: after && plain(after) }];
    }
    const parts: Part[] = [];
    compare([], before, after, parts);
    return parts.map((part) => ({ kind, id, ...part }));
  });
}

/** The operations that take others back, in the order in which they must be done. */
export function invert(operations: readonly Operation[]): Operation[] {
  return [...operations].reverse().map((o): Operation => {
    if (o.op === 'splice') return { ...o, removed: o.added, added: o.removed };
    return { ...o, before: o.after, after: o.before } as Operation;
  });
}

/** Operations as they are sent: without what they replace. */
export function sent(operations: readonly Operation[]): Sent[] {
  return operations.map((o): Sent => {
    const { kind, id } = o;
    if (o.op === 'put') return { kind, id, op: 'put', after: o.after };
    if (o.op === 'set') return { kind, id, op: 'set', path: o.path, after: o.after };
    return { kind, id, op: 'splice', path: o.path, at: o.at, removed: o.removed.length, added: o.added };
  });
}

/** A value with one place in it changed; everything beside the way there is shared with the old one. */
function changedAt(value: unknown, path: Path, change: (old: unknown) => unknown): unknown {
  if (!path.length) return change(value);
  const [key, ...rest] = path;
  if (Array.isArray(value)) {
    const copy = value.slice();
    copy[key as number] = changedAt(copy[key as number], rest, change);
    return copy;
  }
  const next = changedAt((value as Plain)[key as string], rest, change);
  const copy: Plain = { ...(value as Plain) };
  if (next === undefined) delete copy[key as string];
  else copy[key as string] = next;
  return copy;
}

/** A row after one operation; null where it takes the row out. */
export function applyToRow(row: Row | null, o: Operation | Sent): Row | null {
  if (o.op === 'put') return o.after;
  if (!row) throw new Error(`There is no ${o.kind} ${o.id} to change.`);
  if (o.op === 'set') return changedAt(row, o.path, () => o.after) as Row;
  const count = typeof o.removed === 'number' ? o.removed : o.removed.length;
  return changedAt(row, o.path, (list) => {
    const old = (list ?? []) as unknown[];
    return [...old.slice(0, o.at), ...o.added, ...old.slice(o.at + count)];
  }) as Row;
}

const LIST = { fault: 'faults', layer: 'layers', repair: 'repairs', step: 'steps' } as const;
const PLACE: { [K in EntityKind]: (row: Rows[K]) => number } = {
  fault: (fault) => fault.number,
  layer: (layer) => layer.order,
  repair: (repair) => repair.order,
  step: (step) => step.order,
};

/** A document after operations; rows that none of them names are the same objects as before. */
export function applyOperations(
  document: PictureDocument,
  operations: ReadonlyArray<Operation | Sent>,
): PictureDocument {
  const out = { ...document };
  for (const kind of Object.keys(LIST) as EntityKind[]) {
    const own = operations.filter((o) => o.kind === kind);
    if (!own.length) continue;
    const rows = new Map<string, Row>((document[LIST[kind]] as Row[]).map((r) => [r.id, r]));
    for (const o of own) {
      const next = applyToRow(rows.get(o.id) ?? null, o);
      if (next) rows.set(o.id, next);
      else rows.delete(o.id);
    }
    const place = PLACE[kind] as (row: Row) => number;
    const list = [...rows.values()];
    if (list.some((row, i) => i > 0 && place(list[i - 1]) > place(row))) list.sort((a, b) => place(a) - place(b));
    (out as Record<string, Row[]>)[LIST[kind]] = list;
  }
  return out;
}
