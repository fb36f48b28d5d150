import { createHash } from 'node:crypto';
import { closeSync, openSync, readSync } from 'node:fs';
import { asc, eq, sql } from 'drizzle-orm';
import { Refused } from '../../contract/refused.ts';
import { inTransaction, type Database } from './database.ts';
import { blobParts, blobs } from './schema.ts';

export const PART_BYTES = 4 * 1024 * 1024;
const UNFINISHED = -1;

/** Lets others at the store between two parts of long work. */
const pause = () => new Promise<void>((resolve) => setImmediate(resolve));

export function readBlob(db: Database, hash: string): Uint8Array {
  const parts = db.select().from(blobParts).where(eq(blobParts.hash, hash)).orderBy(asc(blobParts.part)).all();
  if (!parts.length && !db.select().from(blobs).where(eq(blobs.hash, hash)).get())
    throw new Refused('These pixels are no longer kept.', 404);
  return Buffer.concat(parts.map((p) => p.data));
}

/** Keeps bytes under their SHA-256. Runs within a transaction that names them. @returns the hash */
export function storeBytes(tx: Database, data: Uint8Array): string {
  const hash = createHash('sha256').update(data).digest('hex');
  if (tx.select().from(blobs).where(eq(blobs.hash, hash)).get()) return hash;
  tx.insert(blobs).values({ hash, bytes: data.length }).run();
  for (let part = 0; part * PART_BYTES < data.length; part++) {
    const piece = Buffer.from(data.subarray(part * PART_BYTES, (part + 1) * PART_BYTES));
    tx.insert(blobParts).values({ hash, part, data: piece }).run();
  }
  return hash;
}

/**
 * Keeps a file in parts, each a transaction of its own, so that nobody waits for a large one. It stays only if a picture names
 * it afterwards; what a crash leaves behind is dropped when the store is opened.
 * @param staged hashes of files that are being kept and that nobody names yet
 */
export async function stageFile(db: Database, path: string, staged: Set<string>): Promise<string> {
  const file = openSync(path, 'r');
  try {
    const piece = Buffer.alloc(PART_BYTES);
    const digest = createHash('sha256');
    let bytes = 0;
    for (let n; (n = readSync(file, piece, 0, PART_BYTES, bytes)) > 0; bytes += n) {
      digest.update(piece.subarray(0, n));
      await pause();
    }
    const hash = digest.digest('hex');
    staged.add(hash);
    if ((db.select().from(blobs).where(eq(blobs.hash, hash)).get()?.bytes ?? UNFINISHED) >= 0) return hash;
    db.insert(blobs).values({ hash, bytes: UNFINISHED }).onConflictDoNothing().run();
    for (let at = 0, part = 0; at < bytes; part++) {
      const n = readSync(file, piece, 0, PART_BYTES, at);
      if (n <= 0) throw new Error('The file changed while it was read.');
      const data = Buffer.from(piece.subarray(0, n));
      db.insert(blobParts).values({ hash, part, data }).onConflictDoNothing().run();
      at += n;
      await pause();
    }
    db.update(blobs).set({ bytes }).where(eq(blobs.hash, hash)).run();
    return hash;
  } finally {
    closeSync(file);
  }
}

const NAMED = sql`(select original from picture union select patch from render union select file from frame)`;

/** Drops one blob if nothing names it. */
export function dropIfUnnamed(tx: Database, hash: string): void {
  tx.run(
    sql`delete from blob where hash = ${hash} and not exists (select 1 from picture where original = ${hash}) and not exists (select 1 from render where patch = ${hash}) and not exists (select 1 from frame where file = ${hash})`,
  );
}

/** Drops all that nothing names, in small transactions, and gives the room back to the disk. */
export async function sweep(db: Database, staged: ReadonlySet<string>): Promise<void> {
  const unnamed = db
    .all<{ hash: string }>(sql`select hash from blob where hash not in ${NAMED}`)
    .map((row) => row.hash)
    .filter((hash) => !staged.has(hash));
  for (const hash of unnamed) {
    const parts = db.select({ part: blobParts.part }).from(blobParts).where(eq(blobParts.hash, hash)).all();
    for (const { part } of parts) {
      db.run(sql`delete from blob_part where hash = ${hash} and part = ${part}`);
      await giveBack(db);
    }
    inTransaction(db, (tx) => dropIfUnnamed(tx, hash));
  }
  await giveBack(db);
}

const PAGES_AT_ONCE = 512;

async function giveBack(db: Database): Promise<void> {
  const free = () =>
    Number(Object.values((db.$client.pragma('freelist_count') as Array<Record<string, number>>)[0])[0]);
  for (let left = free(); left > 0;) {
    db.$client.exec(`PRAGMA incremental_vacuum(${PAGES_AT_ONCE})`);
    db.$client.pragma('wal_checkpoint(TRUNCATE)');
    const now = free();
    if (now >= left) return;
    left = now;
    await pause();
  }
}
