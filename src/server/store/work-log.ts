import { desc, eq, sql } from 'drizzle-orm';
import type { WorkLog } from '../../contract/api.ts';
import type { Database } from './database.ts';
import { workLog } from './schema.ts';

/** Pieces of work that estimates are made from, at most. */
const LATEST = 1000;

export function logWork(tx: Database, pictureId: string, kind: string, seconds: number): void {
  tx.insert(workLog).values({ pictureId, kind, seconds, at: Date.now() }).run();
}

/** The latest pieces of work, and what was spent on one picture. */
export function readWorkLog(db: Database, pictureId: string): WorkLog {
  const rows = db.select().from(workLog).orderBy(desc(workLog.id)).limit(LATEST).all();
  const own = db
    .select({ sum: sql<number>`coalesce(sum(${workLog.seconds}), 0)` })
    .from(workLog)
    .where(eq(workLog.pictureId, pictureId))
    .get();
  return {
    log: rows.map((r) => ({ kind: r.kind, minutes: r.seconds / 60 })),
    spentMinutes: (own?.sum ?? 0) / 60,
  };
}
