import { asc, eq } from 'drizzle-orm';
import type { Operation } from '../../contract/document.ts';
import type { NewJob, PictureRow } from '../../contract/studio.ts';
import { Refused } from '../../contract/refused.ts';
import type { Database } from './database.ts';
import { writeOperation } from './rows.ts';
import { frames, jobs, pictures } from './schema.ts';

/** Rows of all pictures, the oldest first. */
export const pictureRows = (db: Database) => db.select().from(pictures).orderBy(asc(pictures.createdAt)).all();

export const pictureRow = (db: Database, id: string) =>
  db.select().from(pictures).where(eq(pictures.id, id)).get() ?? null;

/** Writes a picture's row, the files that it was joined from, where it was, and what it begins with. */
export function insertPicture(tx: Database, row: typeof pictures.$inferInsert, begins: readonly Operation[]): void {
  tx.insert(pictures).values(row).run();
  row.joined?.frames.forEach(({ hash: file }, position) =>
    tx.insert(frames).values({ pictureId: row.id, position, file }).run(),
  );
  for (const operation of begins) writeOperation(tx, row.id, operation);
}

/** A picture as others know it. */
export function toPicture(row: typeof pictures.$inferSelect): PictureRow {
  const { id, jobId, name, facts, revision, joined } = row;
  return { id, jobId, name, facts, revision, ...(joined && { joined }) };
}

/** Ids of a job's pictures. */
export const picturesOf = (db: Database, jobId: string): string[] =>
  db
    .select({ id: pictures.id })
    .from(pictures)
    .where(eq(pictures.jobId, jobId))
    .all()
    .map((p) => p.id);

/** What the job of a picture says of its repairs. @throws Refused when it is gone */
export function rulesOf(db: Database, pictureId: string): Pick<NewJob, 'policy' | 'donors'> {
  const row = db
    .select({ policy: jobs.policy, donors: jobs.donors })
    .from(pictures)
    .innerJoin(jobs, eq(jobs.id, pictures.jobId))
    .where(eq(pictures.id, pictureId))
    .get();
  if (!row) throw new Refused('This picture no longer exists.', 404);
  return row;
}
