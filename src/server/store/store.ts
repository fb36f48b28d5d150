import { createHash, randomBytes } from 'node:crypto';
import { closeSync, existsSync, mkdirSync, openSync, readdirSync, readFileSync, readSync } from 'node:fs';
import { join } from 'node:path';
import { and, asc, desc, eq, gt, inArray, sql } from 'drizzle-orm';
import type { Change, EntityKind, Fault, Layer, PictureDocument, Repair } from '../../contract/document.ts';
import type { Survey } from '../../contract/survey.ts';
import type { Facts, Job, NewJob, PictureRow } from '../../contract/studio.ts';
import type { Habit } from '../../core/plan/habits.ts';
import { openDatabase, type Database } from './database.ts';
import {
  blobParts,
  blobs,
  edits,
  faults,
  habits,
  jobRecord,
  jobs,
  layers,
  pictures,
  renders,
  repairs,
  surveys,
  workLog,
} from './schema.ts';

const PART_BYTES = 4 * 1024 * 1024;

const TABLES = { fault: faults, layer: layers, repair: repairs } as const;

/** A rendering to keep: which try over which pixels, and its compressed patch. */
export interface RenderRecord {
  pictureId: string;
  key: string;
  tryId: string;
  patch: Uint8Array;
  box: { x: number; y: number; width: number; height: number };
  reason: string;
}

export type RenderRow = Omit<typeof renders.$inferSelect, 'at'>;

/** A fresh row name: time first, so that rows sort by age. */
export const newId = (): string => Date.now().toString(36).padStart(9, '0') + randomBytes(6).toString('hex');

/**
 * Everything Tersum keeps, in one SQLite file. Each method is one transaction: when it returns, the change is on disk
 * (WAL, synchronous = FULL); when it throws, nothing changed.
 */
export class Store {
  private readonly db: Database;

  constructor(folder: string, migrations: string) {
    mkdirSync(folder, { recursive: true });
    this.db = openDatabase(join(folder, 'studio.db'), migrations);
  }

  close(): void {
    this.db.$client.close();
  }

  // --- jobs -------------------------------------------------------------------------------------------------------

  createJob(job: NewJob): string {
    const id = newId();
    this.db
      .insert(jobs)
      .values({ id, ...job, createdAt: Date.now() })
      .run();
    return id;
  }

  changeJob(id: string, set: Partial<NewJob> & { delivered?: boolean }): void {
    const { delivered, ...rest } = set;
    const values = { ...rest, ...(delivered === undefined ? {} : { deliveredAt: delivered ? Date.now() : null }) };
    if (!Object.keys(values).length) return;
    this.db.transaction((tx) => {
      const before = tx.select().from(jobs).where(eq(jobs.id, id)).get();
      tx.update(jobs).set(values).where(eq(jobs.id, id)).run();
      // What may be changed decides which repairs are allowed: a change of it stays on record.
      if (before && rest.policy && rest.policy !== before.policy)
        tx.insert(jobRecord)
          .values({ jobId: id, text: `What may be changed: ${before.policy} → ${rest.policy}`, at: Date.now() })
          .run();
    });
  }

  removeJob(id: string): void {
    this.db.transaction((tx) => {
      tx.delete(jobs).where(eq(jobs.id, id)).run();
      this.dropUnnamedBlobs(tx);
    });
  }

  listJobs(): Job[] {
    const rows = this.db.select().from(jobs).orderBy(desc(jobs.createdAt)).all();
    const all = this.db.select().from(pictures).orderBy(asc(pictures.createdAt)).all();
    const counts = this.db
      .select({
        pictureId: faults.pictureId,
        state: sql<string>`json_extract(${faults.doc}, '$.state')`,
        n: sql<number>`count(*)`,
      })
      .from(faults)
      .groupBy(faults.pictureId, sql`json_extract(${faults.doc}, '$.state')`)
      .all();
    const begun = new Set(
      this.db
        .select({ id: repairs.pictureId })
        .from(repairs)
        .groupBy(repairs.pictureId)
        .all()
        .map((r) => r.id),
    );
    const record = this.db.select().from(jobRecord).orderBy(desc(jobRecord.id)).all();
    return rows.map((row) => {
      const own = all.filter((p) => p.jobId === row.id);
      const count = (id: string, open: boolean) =>
        counts.filter((c) => c.pictureId === id && (c.state === 'open') === open).reduce((s, c) => s + c.n, 0);
      return {
        ...row,
        record: record.filter((r) => r.jobId === row.id).map(({ at, text }) => ({ at, text })),
        state: row.deliveredAt ? 'delivered' : own.some((p) => begun.has(p.id)) ? 'in work' : 'new',
        pictures: own.map((p) => ({
          ...toPicture(p),
          openFaults: count(p.id, true),
          treatedFaults: count(p.id, false),
        })),
      };
    });
  }

  // --- pictures ---------------------------------------------------------------------------------------------------

  /** Takes the file at `path` in as an original, in parts, with the row that names it and those it begins with. */
  importPicture(jobId: string, name: string, facts: Facts, path: string, rows: Change[] = []): string {
    const id = newId();
    this.db.transaction((tx) => {
      if (!tx.select({ id: jobs.id }).from(jobs).where(eq(jobs.id, jobId)).get())
        throw new Error('This job no longer exists.');
      const original = storeFile(tx, path);
      tx.insert(pictures).values({ id, jobId, name, facts, original, createdAt: Date.now() }).run();
      for (const row of rows) write(tx, id, row.kind, row.id, row.after);
    });
    return id;
  }

  picture(id: string): (PictureRow & { original: string; cursor: number }) | null {
    const row = this.db.select().from(pictures).where(eq(pictures.id, id)).get();
    return row ? { ...toPicture(row), original: row.original, cursor: row.cursor } : null;
  }

  /** What may be changed on a picture, as its job says. */
  /** What the job of a picture says of its repairs. */
  rulesOf(pictureId: string): Pick<NewJob, 'policy' | 'donors'> {
    const row = this.db
      .select({ policy: jobs.policy, donors: jobs.donors })
      .from(pictures)
      .innerJoin(jobs, eq(jobs.id, pictures.jobId))
      .where(eq(pictures.id, pictureId))
      .get();
    if (!row) throw new Error('This picture no longer exists.');
    return row;
  }

  removePicture(id: string): void {
    this.db.transaction((tx) => {
      tx.delete(pictures).where(eq(pictures.id, id)).run();
      this.dropUnnamedBlobs(tx);
    });
  }

  readBlob(hash: string): Uint8Array {
    const parts = this.db.select().from(blobParts).where(eq(blobParts.hash, hash)).orderBy(asc(blobParts.part)).all();
    if (!parts.length && !this.db.select().from(blobs).where(eq(blobs.hash, hash)).get())
      throw new Error(`No blob ${hash}.`);
    return Buffer.concat(parts.map((p) => p.data));
  }

  // --- document ---------------------------------------------------------------------------------------------------

  document(pictureId: string): PictureDocument {
    const read = <T>(table: (typeof TABLES)[EntityKind]) =>
      this.db
        .select({ doc: table.doc })
        .from(table)
        .where(eq(table.pictureId, pictureId))
        .all()
        .map((r) => r.doc as T);
    return {
      faults: read<Fault>(faults).sort((a, b) => a.number - b.number),
      layers: read<Layer>(layers).sort((a, b) => a.order - b.order),
      repairs: read<Repair>(repairs).sort((a, b) => a.order - b.order),
    };
  }

  /** Puts an edit in force and in the journal; edits that were undone before are forgotten. */
  applyEdit(pictureId: string, label: string, changes: Change[], record?: RenderRecord[]): void {
    this.db.transaction((tx) => {
      const row = tx.select().from(pictures).where(eq(pictures.id, pictureId)).get();
      if (!row) throw new Error('This picture no longer exists.');
      tx.delete(edits)
        .where(and(eq(edits.pictureId, pictureId), gt(edits.number, row.cursor)))
        .run();
      const number = row.cursor + 1;
      tx.insert(edits).values({ pictureId, number, label, changes, at: Date.now() }).run();
      for (const change of changes) write(tx, pictureId, change.kind, change.id, change.after);
      for (const r of record ?? []) storeRender(tx, r);
      tx.update(pictures)
        .set({ cursor: number, revision: row.revision + 1 })
        .where(eq(pictures.id, pictureId))
        .run();
    });
  }

  /** Takes the last edit in force back (`-1`) or the next one forward again (`1`); returns its label or null. */
  step(pictureId: string, direction: -1 | 1): string | null {
    return this.db.transaction((tx) => {
      const row = tx.select().from(pictures).where(eq(pictures.id, pictureId)).get();
      if (!row) throw new Error('This picture no longer exists.');
      const number = direction < 0 ? row.cursor : row.cursor + 1;
      const edit = tx
        .select()
        .from(edits)
        .where(and(eq(edits.pictureId, pictureId), eq(edits.number, number)))
        .get();
      if (!edit) return null;
      const list = direction < 0 ? [...edit.changes].reverse() : edit.changes;
      for (const c of list) write(tx, pictureId, c.kind, c.id, direction < 0 ? c.before : c.after);
      tx.update(pictures)
        .set({ cursor: row.cursor + direction, revision: row.revision + 1 })
        .where(eq(pictures.id, pictureId))
        .run();
      return edit.label;
    });
  }

  /** Labels of what undo and redo would do. */
  steps(pictureId: string): { undo: string | null; redo: string | null } {
    const row = this.db.select().from(pictures).where(eq(pictures.id, pictureId)).get();
    if (!row) return { undo: null, redo: null };
    const near = this.db
      .select({ number: edits.number, label: edits.label })
      .from(edits)
      .where(and(eq(edits.pictureId, pictureId), inArray(edits.number, [row.cursor, row.cursor + 1])))
      .all();
    const label = (n: number) => near.find((e) => e.number === n)?.label ?? null;
    return { undo: label(row.cursor), redo: label(row.cursor + 1) };
  }

  // --- renderings -------------------------------------------------------------------------------------------------

  saveRender(record: RenderRecord): void {
    this.db.transaction((tx) => storeRender(tx, record));
  }

  rendersOf(pictureId: string): RenderRow[] {
    return this.db.select().from(renders).where(eq(renders.pictureId, pictureId)).orderBy(asc(renders.at)).all();
  }

  // --- survey -----------------------------------------------------------------------------------------------------

  saveSurvey(pictureId: string, survey: Survey): void {
    this.db
      .insert(surveys)
      .values({ pictureId, ...survey })
      .onConflictDoUpdate({ target: surveys.pictureId, set: survey })
      .run();
  }

  survey(pictureId: string): Survey | null {
    const row = this.db.select().from(surveys).where(eq(surveys.pictureId, pictureId)).get();
    return row ? { at: row.at, request: row.request, finds: row.finds } : null;
  }

  /** Rejects finds, or takes their rejection back. */
  decide(pictureId: string, ids: string[], rejected: boolean): void {
    this.db.transaction((tx) => {
      const row = tx.select().from(surveys).where(eq(surveys.pictureId, pictureId)).get();
      if (!row) throw new Error('This survey no longer exists.');
      const wanted = new Set(ids);
      const finds = row.finds.map((f) => (wanted.has(f.id) ? { ...f, rejected } : f));
      tx.update(surveys).set({ finds }).where(eq(surveys.pictureId, pictureId)).run();
    });
  }

  // --- log --------------------------------------------------------------------------------------------------------

  habits(): Record<string, Habit> {
    return Object.fromEntries(
      this.db
        .select()
        .from(habits)
        .all()
        .map(({ kind, ...habit }) => [kind, habit]),
    );
  }

  remember(kind: string, set: Partial<Habit>): void {
    this.db
      .insert(habits)
      .values({ kind, ...set })
      .onConflictDoUpdate({ target: habits.kind, set })
      .run();
  }

  logWork(pictureId: string, kind: string, seconds: number): void {
    this.db.insert(workLog).values({ pictureId, kind, seconds, at: Date.now() }).run();
  }

  /** The latest pieces of work, and what was spent on one picture. */
  workLog(pictureId: string): { log: Array<{ kind: string; minutes: number }>; spentMinutes: number } {
    const rows = this.db.select().from(workLog).orderBy(desc(workLog.id)).limit(1000).all();
    const own = this.db
      .select({ sum: sql<number>`coalesce(sum(${workLog.seconds}), 0)` })
      .from(workLog)
      .where(eq(workLog.pictureId, pictureId))
      .get();
    return {
      log: rows.map((r) => ({ kind: r.kind, minutes: r.seconds / 60 })),
      spentMinutes: (own?.sum ?? 0) / 60,
    };
  }

  /** Every blob's contents still have the hash they are named by. @returns hashes of damaged blobs */
  verify(): string[] {
    const bad: string[] = [];
    for (const { hash, bytes } of this.db.select().from(blobs).all()) {
      const data = this.readBlob(hash);
      if (data.length !== bytes || createHash('sha256').update(data).digest('hex') !== hash) bad.push(hash);
    }
    const check = this.db.$client.pragma('integrity_check') as Array<Record<string, string>>;
    if (Object.values(check[0])[0] !== 'ok') bad.push('database');
    return bad;
  }

  private dropUnnamedBlobs(tx: Tx): void {
    tx.run(sql`delete from blob_part where hash not in (select original from picture union select patch from render)`);
    tx.run(sql`delete from blob where hash not in (select original from picture union select patch from render)`);
  }
}

type Tx = Parameters<Parameters<Database['transaction']>[0]>[0];

function toPicture(row: typeof pictures.$inferSelect): PictureRow {
  return { id: row.id, jobId: row.jobId, name: row.name, facts: row.facts, revision: row.revision };
}

function write(tx: Tx, pictureId: string, kind: EntityKind, id: string, doc: Fault | Layer | Repair | null): void {
  const table = TABLES[kind];
  tx.delete(table).where(eq(table.id, id)).run();
  if (doc)
    tx.insert(table)
      .values({ id, pictureId, doc: doc as never })
      .run();
}

function storeBytes(tx: Tx, data: Uint8Array): string {
  const hash = createHash('sha256').update(data).digest('hex');
  if (tx.select().from(blobs).where(eq(blobs.hash, hash)).get()) return hash;
  tx.insert(blobs).values({ hash, bytes: data.length }).run();
  for (let part = 0; part * PART_BYTES < data.length; part++) {
    const piece = Buffer.from(data.subarray(part * PART_BYTES, (part + 1) * PART_BYTES));
    tx.insert(blobParts).values({ hash, part, data: piece }).run();
  }
  return hash;
}

function storeFile(tx: Tx, path: string): string {
  const digest = createHash('sha256');
  const file = openSync(path, 'r');
  try {
    const piece = Buffer.alloc(PART_BYTES);
    let bytes = 0;
    for (let n; (n = readSync(file, piece, 0, PART_BYTES, bytes)) > 0; bytes += n) digest.update(piece.subarray(0, n));
    const hash = digest.digest('hex');
    if (tx.select().from(blobs).where(eq(blobs.hash, hash)).get()) return hash;
    tx.insert(blobs).values({ hash, bytes }).run();
    for (let at = 0, part = 0; at < bytes; part++) {
      const n = readSync(file, piece, 0, PART_BYTES, at);
      if (n <= 0) throw new Error('The file changed while it was read.');
      tx.insert(blobParts)
        .values({ hash, part, data: Buffer.from(piece.subarray(0, n)) })
        .run();
      at += n;
    }
    return hash;
  } finally {
    closeSync(file);
  }
}

function storeRender(tx: Tx, { patch, ...row }: RenderRecord): void {
  const hash = storeBytes(tx, patch);
  tx.insert(renders)
    .values({ ...row, patch: hash, at: Date.now() })
    .onConflictDoNothing()
    .run();
}

/** Migration folder beside the sources or, in the built server, beside the bundle. */
export function migrationsFolder(base: string): string {
  const folder = join(base, 'migrations');
  if (!existsSync(folder) || !readdirSync(folder).length) throw new Error(`No migrations in ${folder}.`);
  readFileSync(join(folder, 'meta/_journal.json'));
  return folder;
}
