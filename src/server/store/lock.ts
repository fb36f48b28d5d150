import { join } from 'node:path';
import LibSql from 'libsql';

/**
 * Holds a folder for this process, so that no second server works on it. The lock is the operating system's, taken by way of an
 * empty database: it goes with the process, however that ends.
 * @returns what lets go of it again; null when another process holds the folder
 */
export function lockFolder(folder: string): (() => void) | null {
  const client = new LibSql(join(folder, 'server.lock'));
  try {
    client.pragma('busy_timeout = 200');
    client.exec('BEGIN EXCLUSIVE');
  } catch (error) {
    client.close();
    if ((error as { code?: string }).code === 'SQLITE_BUSY') return null;
    throw error;
  }
  return () => {
    client.exec('ROLLBACK');
    client.close();
  };
}
