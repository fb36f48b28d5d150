import type { Sign } from '../../core/check/finding.ts';
import { newId } from '../../contract/ids.ts';
import { mkdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import type { Operation, PictureDocument } from '../../contract/document.ts';
import type { WorkLog } from '../../contract/api.ts';
import type { Delivery } from '../../contract/hand-over.ts';
import type { Survey } from '../../contract/survey.ts';
import type { Facts, Job, JoinedFrom, NewJob, PictureRow } from '../../contract/studio.ts';
import type { KindDefaults } from '../../core/plan/habits.ts';
import { Refused } from '../../contract/refused.ts';
import { readBlob, stageFile, sweep } from './blobs.ts';
import { inTransaction, openDatabase, type Database } from './database.ts';
import type { Shape } from '../../core/mask/shapes.ts';
import { deliveriesOf, deliveryRecord, markSent, recordParts, saveDelivery } from './deliveries.ts';
import { diskFull, needRoom, Reserve, saysFull } from './disk.ts';
import { readHabits, rememberHabit } from './habits.ts';
import { changeJob, insertJob, listJobs } from './jobs.ts';
import { amendEdit, answerOf, applyEdit, step, steps, type RequestName, type RowName } from './journal.ts';
import { insertPicture, pictureRow, picturesOf, rulesOf, toPicture } from './pictures.ts';
import { renderRows, saveRender, saveSigns, type RenderRecord, type RenderRow } from './renders.ts';
import { readDocument } from './rows.ts';
import { jobs, pictures } from './schema.ts';
import { readSetting, writeSetting } from './settings.ts';
import { decideFinds, readSurvey, saveSurvey } from './surveys.ts';
import { checkStore, type StoreCheck } from './upkeep.ts';
import { logWork, readWorkLog } from './work-log.ts';

/** Room that must be left beside what is written: the log of the database grows before it is folded in, and then the database does. */
const SPARE_BYTES = 12e6;

/**
 * Everything Tersum keeps, in one SQLite file. Each method is one transaction: when it returns, the change is on disk
 * (WAL, synchronous = FULL); when it throws, nothing changed. Long ones go in parts. How it is done stands in the files beside it.
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

  /** What the server keeps for itself under a name; the fallback is kept when there is nothing yet. */
  setting(name: string, fallback: string): string {
    return readSetting(this.db, name) ?? this.setSetting(name, fallback);
  }
  setSetting(name: string, value: string): string {
    return this.write(1e4 + value.length, (tx) => writeSetting(tx, name, value));
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

  createJob(job: NewJob): string {
    const id = newId();
    this.write(1e5, (tx) => insertJob(tx, id, job));
    return id;
  }

  changeJob(id: string, set: Parameters<typeof changeJob>[2]): void {
    this.write(1e5, (tx) => changeJob(tx, id, set));
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
    return picturesOf(this.db, jobId);
  }

  listJobs(): Job[] {
    return listJobs(this.db);
  }

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
    joined: JoinedFrom | null = null,
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
        insertPicture(tx, { id, jobId, name, facts, original, createdAt: Date.now(), joined }, rows);
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

  /** What a picture is about, outlined, if need be for its survey; null where that was not said. */
  subject(id: string): Shape[] | null {
    const surveyed = readSurvey(this.db, id)?.request.subject;
    return pictureRow(this.db, id)?.subject ?? (surveyed?.length ? surveyed : null);
  }

  setSubject(id: string, subject: Shape[] | null): void {
    this.write(1e5, (tx) => tx.update(pictures).set({ subject }).where(eq(pictures.id, id)).run());
  }

  /** What the job of a picture says of its repairs. */
  rulesOf(pictureId: string): ReturnType<typeof rulesOf> {
    return rulesOf(this.db, pictureId);
  }

  async removePicture(id: string): Promise<void> {
    if (!this.picture(id)) throw new Refused('This picture no longer exists.', 404);
    await this.remove((tx) => tx.delete(pictures).where(eq(pictures.id, id)).run());
  }

  readBlob(hash: string): Uint8Array {
    return readBlob(this.db, hash);
  }

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
  amendEdit(pictureId: string, number: number, operations: Operation[], untouched?: readonly RowName[]): number | null {
    return this.write(1e6, () => amendEdit(this.db, pictureId, number, operations, untouched));
  }

  /** Takes the last edit in force back (`-1`) or the next one forward again (`1`); null when there is none. */
  step(pictureId: string, direction: -1 | 1, request?: RequestName): ReturnType<typeof step> {
    return this.write(1e6, () => step(this.db, pictureId, direction, request));
  }
  steps(pictureId: string): ReturnType<typeof steps> {
    return steps(this.db, pictureId);
  }
  answerOf(pictureId: string, request: RequestName): ReturnType<typeof answerOf> {
    return answerOf(this.db, pictureId, request);
  }

  /**
   * Keeps a rendering and drops older ones of the same try that are not in use.
   * @returns the blob it is kept in, and the keys of those dropped
   * @throws Refused when the picture was removed meanwhile
   */
  saveRender(record: RenderRecord, inUse: string[] = []): { patch: string; keys: string[] } {
    return this.write(record.patch.length, (tx) => saveRender(tx, record, inUse));
  }
  saveSigns(pictureId: string, key: string, signs: Sign[]): void {
    this.write(1e3 + 400 * signs.length, (tx) => saveSigns(tx, pictureId, key, signs));
  }
  rendersOf(pictureId: string): RenderRow[] {
    return renderRows(this.db, pictureId);
  }

  saveSurvey(pictureId: string, survey: Survey): void {
    this.write(1e6, (tx) => saveSurvey(tx, pictureId, survey));
  }

  survey(pictureId: string): Survey | null {
    return readSurvey(this.db, pictureId);
  }

  /** Rejects finds, or takes their rejection back. */
  decide(pictureId: string, ids: string[], rejected: boolean): void {
    this.write(1e6, (tx) => decideFinds(tx, pictureId, ids, rejected));
  }

  habits(pictureId: string): Record<string, KindDefaults> {
    return readHabits(this.db, pictureId);
  }

  remember(pictureId: string, kind: string, set: Partial<KindDefaults>): void {
    this.write(1e4, (tx) => rememberHabit(tx, pictureId, kind, set));
  }

  logWork(pictureId: string, kind: string, seconds: number): void {
    this.write(1e4, (tx) => logWork(tx, pictureId, kind, seconds));
  }

  workLog(pictureId: string): WorkLog {
    return readWorkLog(this.db, pictureId);
  }

  /** What a record of a picture is put together from, as far as it is kept here. */
  recordParts(pictureId: string): ReturnType<typeof recordParts> {
    return recordParts(this.db, pictureId);
  }
  saveDelivery(pictureId: string, file: Parameters<typeof saveDelivery>[2]): string {
    return this.write(1e6, (tx) => saveDelivery(tx, pictureId, file));
  }
  markSent(ids: readonly string[]): void {
    this.write(1e4, (tx) => markSent(tx, ids));
  }
  deliveriesOf(pictureId: string): Delivery[] {
    return deliveriesOf(this.db, pictureId);
  }
  deliveryRecord(id: string): ReturnType<typeof deliveryRecord> {
    return deliveryRecord(this.db, id);
  }

  check(): StoreCheck {
    return checkStore(this.db);
  }
}
