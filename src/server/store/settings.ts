import { eq } from 'drizzle-orm';
import type { Database } from './database.ts';
import { settings } from './schema.ts';

/** What the server keeps for itself under a name. */
export const readSetting = (db: Database, name: string): string | undefined =>
  db.select().from(settings).where(eq(settings.name, name)).get()?.value;

/** Keeps it, in place of what was there. @returns the value */
export function writeSetting(tx: Database, name: string, value: string): string {
  tx.insert(settings).values({ name, value }).onConflictDoUpdate({ target: settings.name, set: { value } }).run();
  return value;
}
