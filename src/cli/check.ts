import { writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { checkPicture } from '../core/check/check.ts';
import { REMEDIES, SEEN, type Finding } from '../core/check/finding.ts';
import { usualDistance } from '../core/frame/visibility.ts';
import type { Raster } from '../core/raster/raster.ts';
import { read } from './files.ts';
import { UsageError } from './usage.ts';

const USAGE =
  'Options: --picture REPAIRED --mask COVERS.png [--original ORIGINAL] [--json OUT.json] [--long-side MM] [--distance MM]';

/** A length in mm that an option names. */
function millimetres(text: string | undefined, option: string): number | undefined {
  if (text === undefined) return undefined;
  const mm = Number(text);
  if (!(mm > 0 && mm < 1e5)) throw new UsageError(`--${option} must be a length in mm, as 300.`);
  return mm;
}

/** 1 where a mask is not black. */
function coversOf({ data, channels, width, height }: Raster): Uint8Array {
  const out = new Uint8Array(width * height);
  for (let i = 0; i < out.length; i++) out[i] = data[i * channels] ? 1 : 0;
  return out;
}

function sameSize(a: Raster, b: Raster, option: string): void {
  if (a.width === b.width && a.height === b.height) return;
  throw new UsageError(
    `--${option} is ${b.width} × ${b.height} px, the picture ${a.width} × ${a.height}. Both must be of one size.`,
  );
}

/** A finding as it is written: with its remedy in a sentence. */
export const written = (finding: Finding) => ({ ...finding, remedy: REMEDIES[finding.remedy] });

/** `tersum check`: measures what gives repairs away, and writes it, worst first. */
export async function checkCommand(args: string[]): Promise<object> {
  const names = ['picture', 'mask', 'original', 'json', 'long-side', 'distance'] as const;
  let values: Partial<Record<(typeof names)[number], string>>;
  try {
    const options = Object.fromEntries(names.map((n) => [n, { type: 'string' as const }]));
    values = parseArgs({ args, options }).values;
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('\n')[0]} ${USAGE}`);
  }
  const longSideMm = millimetres(values['long-side'], 'long-side') ?? 300;
  const distanceMm = millimetres(values.distance, 'distance') ?? usualDistance(longSideMm);
  const { raster: after } = await read(values.picture, 'picture');
  const { raster: mask } = await read(values.mask, 'mask');
  sameSize(after, mask, 'mask');
  const before = values.original === undefined ? undefined : (await read(values.original, 'original')).raster;
  if (before) sameSize(after, before, 'original');
  const started = performance.now();
  const pictures = { after, ...(before && { before }) };
  const findings = checkPicture(pictures, coversOf(mask), { viewing: { longSideMm, distanceMm } }).map(written);
  const seconds = Math.round(performance.now() - started) / 1000;
  if (values.json) await writeFile(values.json, `${JSON.stringify({ findings }, null, 1)}\n`);
  const seen = findings.filter((f) => f.severity >= SEEN).length;
  return { findings: findings.length, seen, seconds, ...(!values.json && { list: findings }) };
}
