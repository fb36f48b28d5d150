import type { Sign } from '../../core/check/finding.ts';
import type { Box } from '../../core/raster/raster.ts';
import { and, asc, desc, eq, inArray, not, sql } from 'drizzle-orm';
import { Refused } from '../../contract/refused.ts';
import { dropIfUnnamed, storeBytes } from './blobs.ts';
import type { Database } from './database.ts';
import { pictureRow } from './pictures.ts';
import { renders } from './schema.ts';

/** Renderings kept of each try beside those in use: what undo and redo go back to most often. */
const KEPT_RENDERS = 3;

/** A rendering to keep: which try over which pixels, and its compressed patch. */
export interface RenderRecord {
  pictureId: string;
  key: string;
  tryId: string;
  patch: Uint8Array;
  box: Box;
  reason: string;
}

export type RenderRow = Omit<typeof renders.$inferSelect, 'at' | 'signs'> & {
  /** what checks object to; left out until it was checked */
  signs?: Sign[] | null;
};

/**
 * Keeps a rendering and drops older ones of the same try that are not in use.
 * @returns the blob it is kept in, and the keys of those dropped
 * @throws Refused when the picture was removed meanwhile
 */
export function saveRender(tx: Database, record: RenderRecord, inUse: string[]): { patch: string; keys: string[] } {
  const { patch, ...row } = record;
  if (!pictureRow(tx, row.pictureId)) throw new Refused('This picture no longer exists.', 404);
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
}

/** Keeps what checks object to in a rendering; nothing where that is gone meanwhile. */
export function saveSigns(tx: Database, pictureId: string, key: string, signs: Sign[]): void {
  tx.update(renders)
    .set({ signs })
    .where(and(eq(renders.pictureId, pictureId), eq(renders.key, key)))
    .run();
}

/** Renderings of a picture, the oldest first. */
export const renderRows = (db: Database, pictureId: string) =>
  db.select().from(renders).where(eq(renders.pictureId, pictureId)).orderBy(asc(renders.at)).all();
