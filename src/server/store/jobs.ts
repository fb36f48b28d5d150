import { desc, eq, sql } from 'drizzle-orm';
import type { HandOver } from '../../contract/hand-over.ts';
import type { Job, NewJob } from '../../contract/studio.ts';
import { Refused } from '../../contract/refused.ts';
import type { Database } from './database.ts';
import { pictureRows, toPicture } from './pictures.ts';
import { faults, jobRecord, jobs, repairs } from './schema.ts';

export function insertJob(tx: Database, id: string, job: NewJob): void {
  tx.insert(jobs)
    .values({ id, ...job, createdAt: Date.now() })
    .run();
}

/** Changes what is named of a job, and puts a change of what may be changed in it on record. @throws Refused when it is gone */
export function changeJob(
  tx: Database,
  id: string,
  set: Partial<NewJob> & { delivered?: boolean; handOver?: HandOver },
): void {
  const { delivered, ...rest } = set;
  const values = { ...rest, ...(delivered === undefined ? {} : { deliveredAt: delivered ? Date.now() : null }) };
  const before = tx.select().from(jobs).where(eq(jobs.id, id)).get();
  if (!before) throw new Refused('This job no longer exists.', 404);
  if (!Object.keys(values).length) return;
  tx.update(jobs).set(values).where(eq(jobs.id, id)).run();
  // What may be changed decides which repairs are allowed: a change of it stays on record.
  if (rest.policy && rest.policy !== before.policy)
    tx.insert(jobRecord)
      .values({ jobId: id, text: `What may be changed: ${before.policy} → ${rest.policy}`, at: Date.now() })
      .run();
}

/** All jobs, the newest first, with their pictures and how far they are. */
export function listJobs(db: Database): Job[] {
  const rows = db.select().from(jobs).orderBy(desc(jobs.createdAt)).all();
  const all = pictureRows(db);
  const counts = db
    .select({
      pictureId: faults.pictureId,
      state: sql<string>`json_extract(${faults.doc}, '$.state')`,
      n: sql<number>`count(*)`,
    })
    .from(faults)
    .groupBy(faults.pictureId, sql`json_extract(${faults.doc}, '$.state')`)
    .all();
  const begun = new Set(
    db
      .select({ id: repairs.pictureId })
      .from(repairs)
      .groupBy(repairs.pictureId)
      .all()
      .map((r) => r.id),
  );
  const record = db.select().from(jobRecord).orderBy(desc(jobRecord.id)).all();
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
