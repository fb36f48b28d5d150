import { asc, eq } from 'drizzle-orm';
import type { Database } from './database.ts';
import { pictures, renders } from './schema.ts';

export const pictureRow = (db: Database, id: string) =>
  db.select().from(pictures).where(eq(pictures.id, id)).get() ?? null;

export const pictureRows = (db: Database) => db.select().from(pictures).orderBy(asc(pictures.createdAt)).all();

/** Renderings of a picture, the oldest first. */
export const renderRows = (db: Database, pictureId: string) =>
  db.select().from(renders).where(eq(renders.pictureId, pictureId)).orderBy(asc(renders.at)).all();
