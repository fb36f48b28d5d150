import { createHash } from 'node:crypto';
import { existsSync, statSync } from 'node:fs';
import { resolve } from 'node:path';
import { gte, sql } from 'drizzle-orm';
import { readBlob } from './blobs.ts';
import { openForReading, type Database } from './database.ts';
import { blobs } from './schema.ts';

/** What a look through a store found. */
export interface StoreCheck {
  jobs: number;
  pictures: number;
  edits: number;
  /** files and pixels whose contents were compared with their names */
  blobs: number;
  bytes: number;
  /** what is wrong, in words; nothing when all is well */
  problems: string[];
}

const count = (db: Database, table: string): number =>
  db.all<{ n: number }>(sql.raw(`select count(*) n from ${table}`))[0].n;

/** Looks a store through: its structure, its references, and every blob's contents against the hash they are named by. */
export function checkStore(db: Database): StoreCheck {
  const problems: string[] = [];
  /** Damage may show anywhere: what cannot be read is a problem, not an end of looking. */
  const look = <T>(what: string, work: () => T, otherwise: T): T => {
    try {
      return work();
    } catch (error) {
      problems.push(`${what}: ${(error as Error).message}`);
      return otherwise;
    }
  };
  look('structure', () => {
    for (const row of db.all<Record<string, string>>(sql`pragma integrity_check(20)`)) {
      const said = String(Object.values(row)[0]);
      if (said !== 'ok') problems.push(`structure: ${said}`);
    }
  }, undefined); // prettier-ignore
  look('references', () => {
    for (const row of db.all<{ table: string }>(sql`pragma foreign_key_check`))
      problems.push(`a row of ${row.table} names something that is not there`);
  }, undefined); // prettier-ignore
  let bytes = 0;
  const all = look('blobs', () => db.select().from(blobs).where(gte(blobs.bytes, 0)).all(), []);
  for (const { hash, bytes: size } of all) {
    const data = look(`blob ${hash.slice(0, 12)}`, () => readBlob(db, hash), null);
    if (!data) continue;
    bytes += data.length;
    if (data.length !== size || createHash('sha256').update(data).digest('hex') !== hash)
      problems.push(`blob ${hash.slice(0, 12)} is damaged`);
  }
  const [jobs, pictures, edits] = ['job', 'picture', 'edit'].map((table) => look(table, () => count(db, table), 0));
  return { jobs, pictures, edits, blobs: all.length, bytes, problems };
}

/** Looks through the store in a file, beside a server that may be at work on it. */
export function checkStoreFile(path: string): StoreCheck {
  const db = openForReading(path);
  try {
    return checkStore(db);
  } finally {
    db.$client.close();
  }
}

/**
 * Copies the store in a file as it stands at one moment, while a server may be at work on it, and looks the copy through.
 * Source: SQLite documentation, VACUUM INTO.
 * @throws Error when there is a file at the target, or no room for it
 */
export function backupStore(path: string, target: string): StoreCheck {
  if (existsSync(target)) throw new Error(`There is a file at ${target} already. Name another one.`);
  const db = openForReading(path);
  try {
    db.run(sql.raw(`vacuum into '${resolve(target).replaceAll("'", "''")}'`));
  } finally {
    db.$client.close();
  }
  if (!statSync(target).size) throw new Error(`Nothing was written to ${target}.`);
  return checkStoreFile(target);
}
