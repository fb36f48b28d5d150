import { eq } from 'drizzle-orm';
import type { Survey } from '../../contract/survey.ts';
import { Refused } from '../../contract/refused.ts';
import type { Database } from './database.ts';
import { surveys } from './schema.ts';

/** Keeps a picture's survey in place of an earlier one. */
export function saveSurvey(tx: Database, pictureId: string, survey: Survey): void {
  tx.insert(surveys)
    .values({ pictureId, ...survey })
    .onConflictDoUpdate({ target: surveys.pictureId, set: survey })
    .run();
}

export function readSurvey(db: Database, pictureId: string): Survey | null {
  const row = db.select().from(surveys).where(eq(surveys.pictureId, pictureId)).get();
  return row ? { at: row.at, request: row.request, finds: row.finds } : null;
}

/** Rejects finds, or takes their rejection back. @throws Refused when there is no survey any more */
export function decideFinds(tx: Database, pictureId: string, ids: string[], rejected: boolean): void {
  const row = tx.select().from(surveys).where(eq(surveys.pictureId, pictureId)).get();
  if (!row) throw new Refused('This survey no longer exists. Press Survey again.', 404);
  const wanted = new Set(ids);
  const finds = row.finds.map((f) => (wanted.has(f.id) ? { ...f, rejected } : f));
  tx.update(surveys).set({ finds }).where(eq(surveys.pictureId, pictureId)).run();
}
