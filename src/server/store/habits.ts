import { eq } from 'drizzle-orm';
import type { KindDefaults } from '../../core/plan/habits.ts';
import type { Database } from './database.ts';
import { habits, pictures } from './schema.ts';

/** How the editor last changed what was proposed, by kind, in the job of a picture. */
export function readHabits(db: Database, pictureId: string): Record<string, KindDefaults> {
  const rows = db
    .select({ kind: habits.kind, margin: habits.margin, feather: habits.feather, strength: habits.strength })
    .from(habits)
    .innerJoin(pictures, eq(pictures.jobId, habits.jobId))
    .where(eq(pictures.id, pictureId))
    .all();
  return Object.fromEntries(rows.map(({ kind, ...habit }) => [kind, habit]));
}

export function rememberHabit(tx: Database, pictureId: string, kind: string, set: Partial<KindDefaults>): void {
  const picture = tx.select().from(pictures).where(eq(pictures.id, pictureId)).get();
  if (!picture) return;
  tx.insert(habits)
    .values({ jobId: picture.jobId, kind, ...set })
    .onConflictDoUpdate({ target: [habits.jobId, habits.kind], set })
    .run();
}
