import { existsSync, statSync } from 'node:fs';
import LibSql from 'libsql';
import { getTableName } from 'drizzle-orm';
import { BetterSQLiteSession } from 'drizzle-orm/better-sqlite3/session';
import { readMigrationFiles } from 'drizzle-orm/migrator';
import { BaseSQLiteDatabase, SQLiteSyncDialect } from 'drizzle-orm/sqlite-core';
import { freeBytes } from './disk.ts';
import * as schema from './schema.ts';

interface Client {
  readonly inTransaction: boolean;
  pragma(text: string): unknown;
  exec(text: string): unknown;
  close(): void;
}

/** Drizzle over a synchronous SQLite connection, with the connection itself at hand. */
export type Database = BaseSQLiteDatabase<'sync', { changes: number }> & { $client: Client };

/** A store that cannot be opened as it is; the message says what to do. */
export class DamagedStore extends Error {}

/** A store up to this size is read through once when it is opened. */
const READ_THROUGH_BYTES = 256 * 1024 * 1024;
const BIG_TABLE = 'blob_part';

const first = (answer: unknown): unknown => Object.values((answer as Array<Record<string, unknown>>)[0] ?? {})[0];

/** Everything else than the pixels of a large store, or the whole of a small one, is read through. */
function damageOf(client: Client, path: string, tables: string[]): string | null {
  if (statSync(path).size <= READ_THROUGH_BYTES) {
    const said = first(client.pragma('quick_check(1)'));
    return said === 'ok' ? null : String(said);
  }
  for (const table of tables) {
    if (table === BIG_TABLE) continue;
    const said = first(client.pragma(`quick_check('${table}')`));
    if (said !== 'ok') return String(said);
  }
  return null;
}

/** Lets deleted pixels give their room back to the disk. A studio made before that is written anew, once, where there is room. */
function giveRoomBack(client: Client, path: string, folder: string): void {
  if (first(client.pragma('auto_vacuum')) === 2) return;
  const bytes = statSync(path).size;
  if (freeBytes(folder) < 2.5 * bytes + 64e6) return;
  client.pragma('auto_vacuum = INCREMENTAL');
  client.exec('VACUUM');
}

const wrap = (client: Client) => {
  const dialect = new SQLiteSyncDialect();
  const session = new BetterSQLiteSession(client, dialect, undefined);
  const db = new BaseSQLiteDatabase('sync', dialect, session as never, undefined);
  return { db: Object.assign(db, { $client: client }) as unknown as Database, dialect, session };
};

const text = (error: unknown) => (error as Error).message.split('\n')[0];

/**
 * Opens a database file in WAL mode with full synchronisation and brings it to the newest schema. The `libsql` driver
 * has the interface that Drizzle's synchronous session speaks and carries its binary inside the registry package.
 * @throws DamagedStore in words
 */
export function openDatabase(path: string, migrations: string, folder: string): Database {
  const isNew = !existsSync(path) || statSync(path).size === 0;
  try {
    const client = new LibSql(path) as unknown as Client;
    if (isNew) client.pragma('auto_vacuum = INCREMENTAL');
    client.pragma('journal_mode = WAL');
    client.pragma('synchronous = FULL');
    client.pragma('busy_timeout = 5000');
    client.pragma('foreign_keys = ON');
    const { db, dialect, session } = wrap(client);
    if (!isNew) {
      const tables = db.all<{ name: string }>("select name from sqlite_schema where type = 'table'").map((t) => t.name);
      const damage = damageOf(client, path, tables);
      if (damage) throw new Error(damage);
    }
    dialect.migrate(readMigrationFiles({ migrationsFolder: migrations }), session);
    if (!isNew) giveRoomBack(client, path, folder);
    return db;
  } catch (error) {
    throw new DamagedStore(
      `The studio file cannot be opened: ${text(error)}. Put a backup in its place (see “Backup” in the README), or set TERSUM_DATA to another folder.`,
    );
  }
}

/** Opens a database file as it is, to be read by the side of a server that may be running on it. */
export function openForReading(path: string): Database {
  const client = new LibSql(path, { fileMustExist: true, readonly: true }) as unknown as Client;
  client.pragma('busy_timeout = 5000');
  return wrap(client).db;
}

/** Whether a store that was opened for reading has the tables of this version. */
export function isCurrent(db: Database): boolean {
  const there = new Set(db.all<{ name: string }>('select name from sqlite_schema').map(({ name }) => name));
  return Object.values(schema).every((table) => there.has(getTableName(table)));
}

/** Runs work as one transaction. When it throws, nothing changed, also where the database has taken it back by itself. */
export function inTransaction<T>(db: Database, work: (tx: Database) => T): T {
  const { $client: client } = db;
  if (client.inTransaction) return work(db);
  client.exec('BEGIN IMMEDIATE');
  try {
    const result = work(db);
    client.exec('COMMIT');
    return result;
  } catch (error) {
    // A full disk ends the transaction by itself; taking it back again would hide the reason.
    if (client.inTransaction) client.exec('ROLLBACK');
    throw error;
  }
}
