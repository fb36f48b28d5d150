import LibSql from 'libsql';
import { BetterSQLiteSession } from 'drizzle-orm/better-sqlite3/session';
import { readMigrationFiles } from 'drizzle-orm/migrator';
import { BaseSQLiteDatabase, SQLiteSyncDialect } from 'drizzle-orm/sqlite-core';

interface Client {
  pragma(text: string): unknown;
  close(): void;
}

/** Drizzle over a synchronous SQLite connection, with the connection itself at hand. */
export type Database = BaseSQLiteDatabase<'sync', { changes: number }> & { $client: Client };

/**
 * Opens a database file in WAL mode with full synchronisation and brings it to the newest schema. The `libsql` driver
 * has the interface that Drizzle's synchronous session speaks and carries its binary inside the registry package.
 */
export function openDatabase(path: string, migrations: string): Database {
  const client = new LibSql(path);
  client.pragma('journal_mode = WAL');
  client.pragma('synchronous = FULL');
  client.pragma('busy_timeout = 5000');
  client.pragma('foreign_keys = ON');
  const dialect = new SQLiteSyncDialect();
  const session = new BetterSQLiteSession(client as never, dialect, undefined);
  dialect.migrate(readMigrationFiles({ migrationsFolder: migrations }), session as never);
  const db = new BaseSQLiteDatabase('sync', dialect, session as never, undefined);
  return Object.assign(db, { $client: client }) as unknown as Database;
}
