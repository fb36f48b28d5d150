import { writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { encode } from '../codec/encode.ts';
import { fillRegion } from '../core/repair/fill/region.ts';
import { DEFAULT_FILL, LAID_OUT, PREDICTED, type FillStyle } from '../core/repair/fill/settings.ts';
import { formatOf, maskOf, read, sameSize } from './files.ts';
import { predictInThreads } from './predict.ts';
import { UsageError } from './usage.ts';

const STYLES: FillStyle[] = [...PREDICTED, 'textured', ...LAID_OUT, 'near', 'far', 'lines'];

/** `tersum fill`: fills what a mask covers and writes the result; everything else keeps every bit (PNG, TIFF). */
export async function fillCommand(args: string[]): Promise<object> {
  const started = process.hrtime.bigint();
  let values;
  try {
    ({ values } = parseArgs({
      args,
      options: {
        picture: { type: 'string' },
        mask: { type: 'string' },
        out: { type: 'string' },
        seed: { type: 'string', default: '1' },
        donors: { type: 'string' },
        threads: { type: 'string', default: '1' },
        style: { type: 'string' },
      },
    }));
  } catch (error) {
    throw new UsageError(
      `${(error as Error).message.split('\n')[0]} Options: --picture IN --mask MASK.png --out OUT.png [--seed N] [--donors AREA.png] [--threads N] [--style ${STYLES.join('|')}]`,
    );
  }
  const seed = Number(values.seed);
  if (!Number.isInteger(seed) || seed < 0) throw new UsageError('--seed must be a whole number from 0.');
  const threads = Number(values.threads);
  if (!Number.isInteger(threads) || threads < 1 || threads > 64)
    throw new UsageError('--threads must be a whole number from 1 to 64.');
  if (values.style && !STYLES.includes(values.style as FillStyle))
    throw new UsageError(`--style must be one of ${STYLES.join(', ')}.`);
  const format = formatOf(values.out);

  const picture = await read(values.picture, 'picture');
  const mask = await read(values.mask, 'mask');
  sameSize(mask.raster, picture.raster, 'mask');
  const cover = maskOf(mask.raster);
  let allowed: Uint8Array | undefined;
  if (values.donors) {
    const donors = await read(values.donors, 'donors');
    sameSize(donors.raster, picture.raster, 'donors');
    allowed = maskOf(donors.raster);
  }
  const decoded = process.hrtime.bigint();
  const settings = { ...DEFAULT_FILL, seed, style: (values.style as FillStyle | undefined) ?? 'auto' } as const;
  let result;
  try {
    const region = { picture: picture.raster, cover, allowed };
    const pieces = threads > 1 ? await predictInThreads(region, settings, threads) : undefined;
    result = fillRegion(region, settings, undefined, pieces);
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
  const filled = process.hrtime.bigint();
  await writeFile(values.out!, await encode(result.picture, format, { ...picture }));
  const seconds = (a: bigint, b: bigint) => Math.round(Number(b - a) / 1e6) / 1000;
  return {
    out: values.out,
    width: picture.raster.width,
    height: picture.raster.height,
    depth: picture.raster.depth,
    channels: picture.raster.channels,
    covered: cover.reduce((a, b) => a + b, 0),
    deepest: Math.round(result.depth * 10) / 10,
    predicted: result.predicted,
    searched: result.searched,
    style: result.style,
    reason: result.reason,
    seed,
    threads,
    seconds: {
      read: seconds(started, decoded),
      fill: seconds(decoded, filled),
      write: seconds(filled, process.hrtime.bigint()),
    },
    peakMegabytes: Math.round(process.resourceUsage().maxRSS / 1024),
  };
}
