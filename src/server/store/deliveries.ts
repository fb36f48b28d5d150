import { and, inArray, asc, desc, eq, lte } from 'drizzle-orm';
import type { Operation } from '../../contract/document.ts';
import type { Delivery } from '../../contract/hand-over.ts';
import type { RepairRecord } from '../../contract/record.ts';
import { operationsOf } from '../../document/operations.ts';
import { newId } from '../../contract/ids.ts';
import { Refused } from '../../contract/refused.ts';
import type { Database } from './database.ts';
import { listJobs } from './jobs.ts';
import { pictureRow } from './pictures.ts';
import { readWorkLog } from './work-log.ts';
import { deliveries, edits, pictures } from './schema.ts';
import { pack, unpack } from './rows.ts';

const COLUMNS = {
  id: deliveries.id,
  pictureId: deliveries.pictureId,
  version: deliveries.version,
  at: deliveries.at,
  format: deliveries.format,
  fileName: deliveries.fileName,
  bytes: deliveries.bytes,
  sent: deliveries.sent,
};

/** The version that a picture at a revision is delivered as: the last one while nothing was changed since, or the next. */
function versionFor(db: Database, pictureId: string, revision: number): number {
  const last = db
    .select({ version: deliveries.version, revision: deliveries.revision })
    .from(deliveries)
    .where(eq(deliveries.pictureId, pictureId))
    .orderBy(desc(deliveries.version))
    .limit(1)
    .get();
  return !last ? 1 : last.revision === revision ? last.version : last.version + 1;
}

/** Notes a file that left. The same file once more only renews its date. */
export function saveDelivery(
  tx: Database,
  pictureId: string,
  { revision, bytes, sent, record }: { revision: number; bytes: number; sent: boolean; record: RepairRecord },
): string {
  const { version, format, fileName, sha256: hash } = record.delivered;
  const at = Date.now();
  const known = tx
    .select({ id: deliveries.id, sent: deliveries.sent })
    .from(deliveries)
    .where(and(eq(deliveries.pictureId, pictureId), eq(deliveries.hash, hash), eq(deliveries.fileName, fileName)))
    .get();
  if (known) {
    tx.update(deliveries)
      .set({ at, sent: known.sent || sent })
      .where(eq(deliveries.id, known.id))
      .run();
    return known.id;
  }
  const id = newId();
  const row = { id, pictureId, version, revision, format, fileName, bytes, hash, sent, record: pack(record), at };
  tx.insert(deliveries).values(row).run();
  return id;
}

/** Notes that files lie in their client's letterbox. */
export function markSent(tx: Database, ids: readonly string[]): void {
  if (ids.length)
    tx.update(deliveries)
      .set({ sent: true })
      .where(inArray(deliveries.id, [...ids]))
      .run();
}

/** What left of a picture, the newest first. */
export const deliveriesOf = (db: Database, pictureId: string): Delivery[] =>
  db.select(COLUMNS).from(deliveries).where(eq(deliveries.pictureId, pictureId)).orderBy(desc(deliveries.at)).all();

/** The record of a file that left, and the original it was made from. */
export function deliveryRecord(db: Database, id: string): { record: RepairRecord; original: string } | null {
  const row = db
    .select({ record: deliveries.record, original: pictures.original })
    .from(deliveries)
    .innerJoin(pictures, eq(pictures.id, deliveries.pictureId))
    .where(eq(deliveries.id, id))
    .get();
  return row ? { record: unpack<RepairRecord>(row.record), original: row.original } : null;
}

/** When each repair of a picture that is there was made, from the journal. */
function repairTimes(db: Database, pictureId: string): Map<string, number> {
  const { cursor } = db.select({ cursor: pictures.cursor }).from(pictures).where(eq(pictures.id, pictureId)).get()!;
  const times = new Map<string, number>();
  const rows = db
    .select()
    .from(edits)
    .where(and(eq(edits.pictureId, pictureId), lte(edits.number, cursor)))
    .orderBy(asc(edits.number))
    .all();
  for (const { operations, changes, at } of rows)
    for (const o of operations ? unpack<Operation[]>(operations) : operationsOf(changes))
      if (o.kind === 'repair' && o.op === 'put' && !o.before && o.after) times.set(o.id, at);
  return times;
}

/** Job, facts, journal and time of a picture, for its record. @throws Refused when it is gone */
export function recordParts(db: Database, pictureId: string) {
  const picture = pictureRow(db, pictureId);
  const job = picture && listJobs(db).find((j) => j.id === picture.jobId);
  if (!picture || !job) throw new Refused('This picture no longer exists.', 404);
  const { facts, original, revision, name, joined } = picture;
  return {
    job,
    facts,
    original,
    joined,
    revision,
    name,
    version: versionFor(db, pictureId, revision),
    times: repairTimes(db, pictureId),
    minutes: readWorkLog(db, pictureId).spentMinutes,
  };
}
