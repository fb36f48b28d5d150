import { mkdirSync, statSync } from 'node:fs';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { and, asc, desc, eq, inArray, not, sql } from 'drizzle-orm';
import type { Operation, PictureDocument } from '../../contract/document.ts';
import type { Survey } from '../../contract/survey.ts';
import type { Facts, Job, NewJob, PictureRow } from '../../contract/studio.ts';
import type { Habit } from '../../core/plan/habits.ts';
import { Refused } from '../../codec/limits.ts';
import { dropIfUnnamed, readBlob, stageFile, storeBytes, sweep } from './blobs.ts';
import { inTransaction, openDatabase, type Database } from './database.ts';
import { diskFull, needRoom, Reserve, saysFull } from './disk.ts';
import { answerOf, applyEdit, step, steps, type RequestName } from './journal.ts';
import { pictureRow, renderRows } from './reading.ts';
import { readDocument, writeOperation } from './rows.ts';
import { habits, jobRecord, jobs, pictures, faults, renders, repairs, settings, surveys, workLog } from './schema.ts';
import { checkStore, type StoreCheck } from './upkeep.ts';

/** Room that must be left beside what is written: the log of the database grows before it is folded in, and then the database does. */
const SPARE_BYTES = 12e6;
/** Renderings kept of each try beside those in use: what undo and redo go back to most often. */
const KEPT_RENDERS = 3;

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
 * (WAL, synchronous = FULL); when it throws, nothing changed. Long ones go in parts and let others in between.
 */
export class Store {
  private readonly db: Database;
  private readonly reserve: Reserve;
  private readonly staged = new Set<string>();

  constructor(
    private readonly folder: string,
    migrations: string,
  ) {
    mkdirSync(folder, { recursive: true });
    this.db = openDatabase(join(folder, 'studio.db'), migrations, folder);
    this.reserve = new Reserve(folder);
    this.reserve.keep();
  }

  /** Folds the log of the database in where there is room for that. */
  private foldIn(): void {
    try {
      this.db.$client.pragma('wal_checkpoint(TRUNCATE)');
    } catch (error) {
      if (!saysFull(error)) throw error;
    }
  }

  /** Folds the log of the database in, so that the one file holds everything, and lets it go. */
  close(): void {
    try {
      this.db.$client.pragma('wal_checkpoint(TRUNCATE)');
    } finally {
      this.db.$client.close();
    }
  }

  /** Drops what a crash left behind that nothing names. */
  async tidy(): Promise<void> {
    await sweep(this.db, this.staged);
  }

  /** What the server keeps for itself under a name, made by `make` when there is nothing yet. */
  setting(name: string, fallback: string): string {
    const known = this.db.select().from(settings).where(eq(settings.name, name)).get();
    if (known) return known.value;
    this.write(1e4, () => this.db.insert(settings).values({ name, value: fallback }).run());
    return fallback;
  }

  /** Writes in one transaction; on a full disk says so in words. */
  private write<T>(bytes: number, work: (tx: Database) => T): T {
    // Before it is too late to fold the log in: a disk that is full to the last byte could not even do that.
    needRoom(this.folder, bytes + SPARE_BYTES);
    return this.writeAnyway(bytes, work);
  }

  private writeAnyway<T>(bytes: number, work: (tx: Database) => T): T {
    try {
      return inTransaction(this.db, work);
    } catch (error) {
      if (saysFull(error)) throw diskFull(this.folder, bytes + SPARE_BYTES);
      throw error;
    }
  }

  /** Deletes, also on a full disk: room was set aside for that. */
  private async remove(work: (tx: Database) => unknown): Promise<void> {
    try {
      inTransaction(this.db, work);
    } catch (error) {
      if (!saysFull(error)) throw error;
      this.reserve.release();
      this.foldIn();
      this.writeAnyway(0, work);
      this.foldIn();
    }
    await sweep(this.db, this.staged);
    this.reserve.keep();
  }

  // --- jobs -------------------------------------------------------------------------------------------------------

  createJob(job: NewJob): string {
    const id = newId();
    this.write(1e5, (tx) =>
      tx
        .insert(jobs)
        .values({ id, ...job, createdAt: Date.now() })
        .run(),
    );
    return id;
  }

  changeJob(id: string, set: Partial<NewJob> & { delivered?: boolean }): void {
    const { delivered, ...rest } = set;
    const values = { ...rest, ...(delivered === undefined ? {} : { deliveredAt: delivered ? Date.now() : null }) };
    this.write(1e5, (tx) => {
      const before = tx.select().from(jobs).where(eq(jobs.id, id)).get();
      if (!before) throw new Refused('This job no longer exists.', 404);
      if (!Object.keys(values).length) return;
      tx.update(jobs).set(values).where(eq(jobs.id, id)).run();
      // What may be changed decides which repairs are allowed: a change of it stays on record.
      if (rest.policy && rest.policy !== before.policy)
        tx.insert(jobRecord)
          .values({ jobId: id, text: `What may be changed: ${before.policy} → ${rest.policy}`, at: Date.now() })
          .run();
    });
  }

  /** Removes a job with its pictures. @returns the ids of these */
  async removeJob(id: string): Promise<string[]> {
    if (!this.hasJob(id)) throw new Refused('This job no longer exists.', 404);
    const own = this.picturesOf(id);
    await this.remove((tx) => tx.delete(jobs).where(eq(jobs.id, id)).run());
    return own;
  }

  hasJob(id: string): boolean {
    return this.db.select({ id: jobs.id }).from(jobs).where(eq(jobs.id, id)).get() !== undefined;
  }

  picturesOf(jobId: string): string[] {
    return this.db
      .select({ id: pictures.id })
      .from(pictures)
      .where(eq(pictures.jobId, jobId))
      .all()
      .map((p) => p.id);
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

  /**
   * Takes the file at `path` in as an original, with the row that names it and those it begins with.
   * @throws Refused when there is no room for it, or no such job
   */
  async importPicture(
    jobId: string,
    name: string,
    facts: Facts,
    path: string,
    rows: Operation[] = [],
  ): Promise<string> {
    const id = newId();
    const { size } = statSync(path);
    if (!this.hasJob(jobId)) throw new Refused('This job no longer exists.', 404);
    needRoom(this.folder, size + SPARE_BYTES);
    let hash: string | undefined;
    try {
      hash = await stageFile(this.db, path, this.staged);
      const original = hash;
      this.write(size, (tx) => {
        if (!this.hasJob(jobId)) throw new Refused('This job no longer exists.', 404);
        tx.insert(pictures).values({ id, jobId, name, facts, original, createdAt: Date.now() }).run();
        for (const row of rows) writeOperation(tx, id, row);
      });
    } catch (error) {
      if (hash) this.staged.delete(hash);
      await sweep(this.db, this.staged).catch(() => undefined);
      if (saysFull(error)) throw diskFull(this.folder, size + SPARE_BYTES);
      throw error;
    }
    this.staged.delete(hash);
    return id;
  }

  picture(id: string): (PictureRow & { original: string; cursor: number }) | null {
    const row = pictureRow(this.db, id);
    return row ? { ...toPicture(row), original: row.original, cursor: row.cursor } : null;
  }

  /** What the job of a picture says of its repairs. */
  rulesOf(pictureId: string): Pick<NewJob, 'policy' | 'donors'> {
    const row = this.db
      .select({ policy: jobs.policy, donors: jobs.donors })
      .from(pictures)
      .innerJoin(jobs, eq(jobs.id, pictures.jobId))
      .where(eq(pictures.id, pictureId))
      .get();
    if (!row) throw new Refused('This picture no longer exists.', 404);
    return row;
  }

  async removePicture(id: string): Promise<void> {
    if (!this.picture(id)) throw new Refused('This picture no longer exists.', 404);
    await this.remove((tx) => tx.delete(pictures).where(eq(pictures.id, id)).run());
  }

  readBlob(hash: string): Uint8Array {
    return readBlob(this.db, hash);
  }

  // --- document ---------------------------------------------------------------------------------------------------

  document(pictureId: string): PictureDocument {
    return readDocument(this.db, pictureId);
  }

  /** Puts an edit in force and in the journal. @returns the picture's new revision */
  applyEdit(
    pictureId: string,
    label: string,
    operations: Operation[],
    request?: RequestName,
    answer?: unknown,
  ): number {
    return this.write(1e6, () => applyEdit(this.db, pictureId, label, operations, request, answer));
  }

  /** Takes the last edit in force back (`-1`) or the next one forward again (`1`); null when there is none. */
  step(pictureId: string, direction: -1 | 1, request?: RequestName): ReturnType<typeof step> {
    return this.write(1e6, () => step(this.db, pictureId, direction, request));
  }

  /** Labels of what undo and redo would do. */
  steps(pictureId: string): ReturnType<typeof steps> {
    return steps(this.db, pictureId);
  }

  /** What a request that comes again was answered. */
  answerOf(pictureId: string, request: RequestName): { answer: unknown } | null {
    return answerOf(this.db, pictureId, request);
  }

  // --- renderings -------------------------------------------------------------------------------------------------

  /**
   * Keeps a rendering and drops older ones of the same try that are not in use.
   * @returns the blob it is kept in, and the keys of those dropped
   * @throws Refused when the picture was removed meanwhile
   */
  saveRender(record: RenderRecord, inUse: string[] = []): { patch: string; keys: string[] } {
    const { patch, ...row } = record;
    return this.write(patch.length, (tx) => {
      if (!this.picture(row.pictureId)) throw new Refused('This picture no longer exists.', 404);
      const hash = storeBytes(tx, patch);
      tx.insert(renders)
        .values({ ...row, patch: hash, at: Date.now() })
        .onConflictDoNothing()
        .run();
      const own = and(eq(renders.pictureId, row.pictureId), eq(renders.tryId, row.tryId));
      const newest = tx
        .select({ key: renders.key })
        .from(renders)
        .where(own)
        .orderBy(desc(renders.at), desc(sql`rowid`))
        .limit(KEPT_RENDERS)
        .all();
      const keep = [...newest.map((n) => n.key), ...inUse];
      const old = tx
        .select({ key: renders.key, patch: renders.patch })
        .from(renders)
        .where(and(own, not(inArray(renders.key, keep))))
        .all();
      for (const { key, patch: gone } of old) {
        tx.delete(renders)
          .where(and(eq(renders.pictureId, row.pictureId), eq(renders.key, key)))
          .run();
        dropIfUnnamed(tx, gone);
      }
      return { patch: hash, keys: old.map((o) => o.key) };
    });
  }

  rendersOf(pictureId: string): RenderRow[] {
    return renderRows(this.db, pictureId);
  }

  // --- survey -----------------------------------------------------------------------------------------------------

  saveSurvey(pictureId: string, survey: Survey): void {
    this.write(1e6, (tx) =>
      tx
        .insert(surveys)
        .values({ pictureId, ...survey })
        .onConflictDoUpdate({ target: surveys.pictureId, set: survey })
        .run(),
    );
  }

  survey(pictureId: string): Survey | null {
    const row = this.db.select().from(surveys).where(eq(surveys.pictureId, pictureId)).get();
    return row ? { at: row.at, request: row.request, finds: row.finds } : null;
  }

  /** Rejects finds, or takes their rejection back. */
  decide(pictureId: string, ids: string[], rejected: boolean): void {
    this.write(1e6, (tx) => {
      const row = tx.select().from(surveys).where(eq(surveys.pictureId, pictureId)).get();
      if (!row) throw new Refused('This survey no longer exists. Press Survey again.', 404);
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
    this.write(1e4, (tx) =>
      tx
        .insert(habits)
        .values({ kind, ...set })
        .onConflictDoUpdate({ target: habits.kind, set })
        .run(),
    );
  }

  logWork(pictureId: string, kind: string, seconds: number): void {
    this.write(1e4, (tx) => tx.insert(workLog).values({ pictureId, kind, seconds, at: Date.now() }).run());
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

  /** Looks the whole store through. */
  check(): StoreCheck {
    return checkStore(this.db);
  }
}

function toPicture(row: typeof pictures.$inferSelect): PictureRow {
  return { id: row.id, jobId: row.jobId, name: row.name, facts: row.facts, revision: row.revision };
}
