import { createRequire } from 'node:module';
import { writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { encode } from '../codec/encode.ts';
import { CannotJoin, join } from '../core/join/join.ts';
import type { OpenCv } from '../core/join/features.ts';
import { formatOf, maskPath, read, writeMask } from './files.ts';
import { UsageError } from './usage.ts';

const NAMES = ['frames', 'projection', 'out', 'gaps', 'json'] as const;
const USAGE =
  'Options: --frames A,B[,C…] [--projection flat|cylinder|auto] --out OUT [--gaps GAPS.png] [--json OUT.json]';
const PROJECTIONS = ['flat', 'cylinder', 'auto'] as const;
const MOST_FRAMES = 12;

/**
 * The general-purpose library that finds features, once it is ready. It is held in an object: it has a `then` of its own that answers
 * with itself, so that a promise of it never ends.
 */
async function openCv(): Promise<{ cv: OpenCv }> {
  const cv = createRequire(import.meta.url)('@techstark/opencv-js') as OpenCv & { onRuntimeInitialized?: () => void };
  await new Promise<void>((resolve) => {
    // Until it is ready it has nothing of its own yet.
    if (Object.hasOwn(cv, 'Mat')) resolve();
    else cv.onRuntimeInitialized = () => resolve();
  });
  return { cv };
}

const hundredths = (v: number): number => Math.round(v * 100) / 100;

/** `tersum join`: joins frames that were taken from one place, and says how they were taken. */
export async function joinCommand(args: string[]): Promise<object> {
  let values: Partial<Record<(typeof NAMES)[number], string>>;
  try {
    values = parseArgs({
      args,
      options: Object.fromEntries(NAMES.map((n) => [n, { type: 'string' as const }])),
    }).values;
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('\n')[0]} ${USAGE}`);
  }
  const files = (values.frames ?? '').split(',').filter(Boolean);
  if (files.length < 2) throw new UsageError(`--frames needs at least two files, as a.jpg,b.jpg. ${USAGE}`);
  if (files.length > MOST_FRAMES) throw new UsageError(`At most ${MOST_FRAMES} frames can be joined at once.`);
  const projection = PROJECTIONS.find((p) => p === (values.projection ?? 'auto'));
  if (!projection) throw new UsageError('--projection must be flat, cylinder or auto.');
  const format = formatOf(values.out);
  maskPath(values.gaps, 'gaps');
  const pictures = [];
  for (const file of files) pictures.push(await read(file, 'frames'));
  const [first] = pictures;
  for (const [n, { raster }] of pictures.entries())
    if (raster.channels !== first.raster.channels || raster.depth !== first.raster.depth)
      throw new UsageError(
        `--frames: ${files[n]} has other channels or another depth than ${files[0]}. Convert it first.`,
      );
  try {
    const { cv } = await openCv();
    const joined = join(
      cv,
      pictures.map((p) => p.raster),
      { projection },
    );
    const { picture, gaps, cameras, light } = joined;
    await writeFile(values.out!, await encode(picture, format, { ...first }));
    if (values.gaps)
      await writeMask(
        values.gaps,
        gaps.map((v) => 255 * v),
        picture.width,
        picture.height,
      );
    const degrees = 180 / Math.PI;
    const told = {
      width: picture.width,
      height: picture.height,
      projection: joined.projection,
      degrees: hundredths(joined.degrees),
      error: hundredths(joined.error),
      matches: joined.matches,
      frames: cameras.map((camera, n) => ({
        file: files[n],
        belongs: camera !== null,
        ...(camera && {
          focal: hundredths(camera.focal),
          bend: Math.round(camera.bend * 1e4) / 1e4,
          turn: camera.turn.map((v) => Math.round(v * 1e6) / 1e6),
          leans: hundredths(Math.atan2(camera.turn[3], camera.turn[0]) * degrees),
          exposure: hundredths(light.exposures[n]),
        }),
      })),
      fall: light.fall.map(hundredths),
      left: joined.left.map((n) => files[n]),
      gaps: gaps.reduce((sum, v) => sum + v, 0),
      whole: joined.whole,
      cuts: joined.cuts.map((cut) => ({ ...cut, frames: cut.frames.map((n) => files[n]) })),
    };
    if (values.json) await writeFile(values.json, `${JSON.stringify(told, null, 1)}\n`);
    return told;
  } catch (error) {
    if (error instanceof CannotJoin) throw new UsageError(error.message);
    throw error;
  }
}
