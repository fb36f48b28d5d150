import { decodeFile } from '../../codec/decode.ts';
import type { JoinedFrom } from '../../contract/studio.ts';
import { JOIN_VERSION } from '../../core/join/join.ts';
import type { Raster } from '../../core/raster/raster.ts';
import { joinFiles } from '../../codec/join-files.ts';
import { limitsFrom } from '../../codec/limits.ts';
import { firstDifference } from '../../record/verify.ts';
import { unpackPatch } from '../images/pack.ts';
import { replay, type Replay } from '../pictures/replay.ts';
import { readBlob } from '../store/blobs.ts';
import { isCurrent, openForReading, type Database } from '../store/database.ts';
import { pictureRow, pictureRows } from '../store/pictures.ts';
import { renderRows } from '../store/renders.ts';
import { readDocument } from '../store/rows.ts';
import { optionsOf, studioFile, UsageError } from './options.ts';

const TAKES = 'Options: [--picture ID] [--data FOLDER]';

/**
 * Whether the frames of a joined picture, joined again, give it in every pixel; `earlier` where they do not, but were joined by an
 * earlier version, which cannot be repeated; undefined of any other.
 */
async function joinedSame(
  db: Database,
  { joined }: { joined: JoinedFrom | null },
  raster: Raster,
): Promise<boolean | 'earlier' | undefined> {
  if (!joined) return undefined;
  const frames = joined.frames.map(({ name, hash }) => ({ name, file: readBlob(db, hash) }));
  const { made } = await joinFiles(frames, joined.projection, limitsFrom(process.env), undefined, joined.marks);
  if (firstDifference(made.picture, raster) === null) return true;
  return joined.version === JOIN_VERSION ? false : 'earlier';
}

async function replayOne(
  db: Database,
  id: string,
): Promise<Replay & { picture: string; name: string; joined?: boolean | 'earlier' }> {
  const row = pictureRow(db, id);
  if (!row) throw new UsageError(`There is no picture ${id} in this studio. ${TAKES}`);
  const { raster, layers } = await decodeFile(Buffer.from(readBlob(db, row.original)), limitsFrom(process.env));
  const blobs = new Map(renderRows(db, id).map((r) => [r.key, r.patch]));
  const stored = (key: string) => {
    const blob = blobs.get(key);
    return blob ? unpackPatch(readBlob(db, blob)) : null;
  };
  const picture = {
    sourceHash: row.original,
    original: raster,
    given: layers ?? [],
    document: readDocument(db, id),
    stored,
  };
  const told = (name: string) => process.stderr.isTTY && process.stderr.write(`${row.name}: ${name}\n`);
  const joined = await joinedSame(db, row, raster);
  return { picture: id, name: row.name, ...(joined !== undefined && { joined }), ...replay(picture, told) };
}

/** `tersum replay`: renders pictures anew from their originals and specs, and compares every byte with what is kept. */
export async function replayCommand(args: string[]): Promise<{ answer: object; failed: boolean }> {
  const { values, positionals } = optionsOf(args, { picture: { type: 'string' } }, TAKES);
  if (positionals.length) throw new UsageError(`“${positionals[0]}” is not understood. ${TAKES}`);
  const db = openForReading(studioFile(values.data));
  try {
    if (!isCurrent(db))
      throw new UsageError('This studio was last used by an earlier version. Start Tersum on it once, then try again.');
    const ids = values.picture ? [String(values.picture)] : pictureRows(db).map((p) => p.id);
    const pictures = [];
    for (const id of ids) pictures.push(await replayOne(db, id));
    const failed = pictures.some((p) => p.different.length > 0 || p.missing.length > 0 || p.joined === false);
    return { answer: { same: !failed, pictures }, failed };
  } finally {
    db.$client.close();
  }
}
