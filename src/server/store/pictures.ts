import { asc, eq } from 'drizzle-orm';
import type { NewJob, PictureRow } from '../../contract/studio.ts';
import { Refused } from '../../contract/refused.ts';
import type { Database } from './database.ts';
import { jobs, pictures } from './schema.ts';

/** Rows of all pictures, the oldest first. */
export const pictureRows = (db: Database) => db.select().from(pictures).orderBy(asc(pictures.createdAt)).all();

export const pictureRow = (db: Database, id: string) =>
  db.select().from(pictures).where(eq(pictures.id, id)).get() ?? null;

/** A picture as others know it. */
export function toPicture(row: typeof pictures.$inferSelect): PictureRow {
  return { id: row.id, jobId: row.jobId, name: row.name, facts: row.facts, revision: row.revision };
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
