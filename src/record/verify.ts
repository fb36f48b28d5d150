import { decodeFile } from '../codec/decode.ts';
import { joinFiles } from '../codec/join-files.ts';
import type { Limits } from '../codec/limits.ts';
import { recordSchema, type RepairRecord, type Verification } from '../contract/record.ts';
import { beneathOf, deliveredOf } from '../core/chain/chain.ts';
import { JOIN_VERSION } from '../core/join/join.ts';
import { listed } from '../core/frame/words.ts';
import { revealPatch } from '../core/mask/reveal.ts';
import type { PatchLayer } from '../core/raster/patch.ts';
import type { Raster } from '../core/raster/raster.ts';
import { isEarlier, renderRepair } from '../core/repair/registry.ts';
import { pixelsHash, sealOf, sha256 } from './seal.ts';

/** What is verified. */
export interface Evidence {
  original: Uint8Array;
  /** of an original that was joined: its frames, in their order; none where they are not looked at */
  frames?: readonly Uint8Array[];
  /** the record as text */
  record: string;
  delivered: Uint8Array;
}

/** How a finished picture becomes the file that a record names; see `server/deliver`. */
export type MakeFile = (picture: Raster, original: Uint8Array, record: RepairRecord) => Promise<Uint8Array>;

/** @throws Error in words where a text is no record */
export function readRecord(text: string): RepairRecord {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new Error('The record is not JSON. Take the file that was saved as a record.');
  }
  const read = recordSchema.safeParse(value);
  if (read.success) return read.data;
  const { path, message } = read.error.issues[0];
  throw new Error(`The record cannot be read${path.length ? ` at ${path.join('.')}` : ''}: ${message}`);
}

/** Makes the finished picture anew from an original and a record alone. @throws Error in words where a repair cannot be repeated */
export function replayed(
  source: Raster,
  given: Parameters<typeof beneathOf>[3],
  record: RepairRecord,
  onProgress: (done: number) => void = () => undefined,
): Raster {
  const laid: PatchLayer[] = [];
  record.repairs.forEach(({ spec, strength, visible, hides, layer, number }, n) => {
    if (isEarlier(spec))
      throw new Error(
        `Repair ${number} was made by an earlier version of its method, which cannot be repeated. Make it anew and deliver again.`,
      );
    const { patch } = renderRepair(
      beneathOf(
        source,
        laid.filter((l) => l.strength > 0),
        spec,
        given,
      ),
      spec,
    );
    const above = record.layers[layer];
    const marks = [...hides, ...above.hides];
    const seen = visible && above.visible ? strength * above.opacity : 0;
    laid.push({ patch: marks.length ? revealPatch(patch, marks) : patch, strength: seen });
    onProgress((n + 1) / record.repairs.length);
  });
  const seen = laid.filter((l) => l.strength > 0);
  const delivered = deliveredOf(source, record.steps, seen);
  return delivered.read(delivered.extent);
}

/** The first pixel, by rows, in which two pictures differ, and how many do; null where none does. */
export function firstDifference(a: Raster, b: Raster): Verification['differs'] | null {
  if (a.width !== b.width || a.height !== b.height || a.channels !== b.channels || a.depth !== b.depth)
    return { x: 0, y: 0, pixels: a.width * a.height };
  let first = -1;
  let pixels = 0;
  for (let i = 0, n = a.width * a.height; i < n; i++) {
    for (let c = i * a.channels, end = c + a.channels; c < end; c++) {
      if (a.data[c] === b.data[c]) continue;
      if (first < 0) first = i;
      pixels++;
      break;
    }
  }
  return first < 0 ? null : { x: first % a.width, y: Math.floor(first / a.width), pixels };
}

/** What is said of an original that was joined, where its frames are not given; null of any other. */
function namesOnly({ original: { joined } }: RepairRecord, given: number): string | null {
  if (!joined || given) return null;
  return `It is the file that was worked on. It was joined from ${listed(joined.frames.map((f) => f.fileName))}, which were not given and not looked at.`;
}

/** Joins frames again and compares them with what was worked on. @returns what is wrong, in words; null where nothing is */
async function framesTold(
  files: readonly Uint8Array[],
  { frames, projection, marks, software, version }: NonNullable<RepairRecord['original']['joined']>,
  original: Raster,
  limits: Limits,
): Promise<string | null> {
  if (files.length !== frames.length)
    return `${files.length} were given, but it was joined from ${frames.length}: ${listed(frames.map((f) => f.fileName))}, in this order.`;
  const other = frames.findIndex((f, n) => sha256(files[n]) !== f.sha256);
  if (other >= 0) return `Number ${other + 1} is not the file that was joined (${frames[other].fileName}).`;
  const named = frames.map(({ fileName }, n) => ({ name: fileName, file: files[n] }));
  let picture: Raster;
  try {
    ({ picture } = (await joinFiles(named, projection, limits, undefined, marks)).made);
  } catch (error) {
    return `They cannot be joined again: ${(error as Error).message}`;
  }
  const differs = firstDifference(picture, original);
  if (!differs) return null;
  if (version !== JOIN_VERSION)
    return `They are the files that were joined, by an earlier version of joining (${software}), which cannot be repeated: from ${differs.x}, ${differs.y} on it joined otherwise. Join them anew and deliver again.`;
  return `Joined again, they give another picture; the first pixel that differs is at ${differs.x}, ${differs.y}. They were joined by ${software}: another version may join otherwise.`;
}

/**
 * Does all that a record says to the original again and compares what comes out with what was delivered, in every pixel.
 * @throws Error in words where something cannot be read at all
 */
export async function verify(
  { original, frames = [], record: text, delivered }: Evidence,
  make: MakeFile,
  limits: Limits,
  onProgress?: (done: number) => void,
): Promise<Verification> {
  const record = readRecord(text);
  const steps: Verification['steps'] = [];
  const step = (what: string, agrees: boolean, yes: string, no: string) => {
    steps.push({ what, agrees, words: agrees ? yes : no });
    return agrees;
  };
  const raw = JSON.parse(text) as RepairRecord;
  step('Record', sealOf(raw) === record.seal, 'It is as it was sealed.', 'It was changed after it was sealed.');
  const source = step(
    'Original',
    sha256(original) === record.original.sha256,
    namesOnly(record, frames.length) ?? 'It is the file that was worked on.',
    `It is not the file that was worked on (${record.original.fileName}).`,
  );
  if (!source) return { agrees: false, steps };
  const { raster, layers } = await decodeFile(Buffer.from(original), limits);
  const { joined } = record.original;
  if (joined && frames.length) {
    const told = await framesTold(frames, joined, raster, limits);
    step('Frames', told === null, 'Joined again, they give the original in every pixel.', told ?? '');
  }
  let picture: Raster;
  try {
    picture = replayed(
      raster,
      (n) => layers?.[n]?.patch,
      record,
      (d) => onProgress?.(0.85 * d),
    );
  } catch (error) {
    step('Repairs', false, '', (error as Error).message);
    return { agrees: false, steps };
  }
  const repeated = step(
    'Repairs',
    pixelsHash(picture) === record.delivered.pixels,
    'Done again from the original, they give the same picture in every pixel.',
    'Done again as the record says, they give another picture than the one that was recorded.',
  );
  if (sha256(delivered) === record.delivered.sha256) {
    step('Delivered file', true, 'It is the recorded file in every byte.', '');
    return { agrees: steps.every((s) => s.agrees), steps };
  }
  const again = await decodeFile(Buffer.from(await make(picture, original, record)), limits);
  const own = await decodeFile(Buffer.from(delivered), limits);
  const differs = firstDifference(again.raster, own.raster);
  const where =
    differs &&
    `${differs.pixels} ${differs.pixels === 1 ? 'pixel differs' : 'pixels differ'}, the first at ${differs.x}, ${differs.y}`;
  step(
    'Delivered file',
    !differs && repeated,
    'Its pixels are those that were recorded; what is written around them is not.',
    `It is not the file that was recorded: ${where ?? 'its pixels belong to other repairs'}.`,
  );
  return { agrees: steps.every((s) => s.agrees), steps, ...(differs && { differs }) };
}
