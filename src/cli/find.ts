import { writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { findClips } from '../core/find/strand/clips.ts';
import { completeMesh } from '../core/find/strand/mesh/complete-mesh.ts';
import { scoreFor } from '../core/find/find.ts';
import { strandCover } from '../core/find/strand/strand-cover.ts';
import { traceStrand } from '../core/find/strand/strand.ts';
import type { TracedStrand } from '../core/find/strand/traced-strand.ts';
import { FINDER_NAMES, survey, type FinderName } from '../core/find/survey.ts';
import { rasterise, type Point, type Shape } from '../core/mask/shapes.ts';
import type { Raster } from '../core/raster/raster.ts';
import { maskPath, read, writeMask } from './files.ts';
import { UsageError } from './usage.ts';

function options<const T extends Record<string, { type: 'string'; default?: string }>>(
  args: string[],
  names: T,
  usage: string,
) {
  try {
    return parseArgs({ args, options: names }).values as Partial<Record<keyof T, string>>;
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('\n')[0]} ${usage}`);
  }
}

function pointsOf(text: string | undefined, option: string, picture: Raster): Point[] {
  const points = (text ?? '').split(':').map((pair): Point => {
    const [x, y] = pair.split(',').map(Number);
    return [x, y];
  });
  if (points.length < 2 || points.some((p) => p.length !== 2 || p.some((v) => !Number.isFinite(v))))
    throw new UsageError(`--${option} must name at least two points as x,y:x,y.`);
  const out = points.find(([x, y]) => x < 0 || y < 0 || x > picture.width || y > picture.height);
  if (out)
    throw new UsageError(
      `--${option}: ${out.join(',')} lies outside the picture of ${picture.width} × ${picture.height} px.`,
    );
  return points;
}

function trace(picture: Raster, points: Point[]): TracedStrand {
  try {
    return traceStrand(picture, points);
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
}

const covered = (shapes: Shape[], { width, height }: Raster) => rasterise(shapes, { x: 0, y: 0, width, height }).data;
const short = (v: number) => Math.round(v * 100) / 100;
const clock = () => Number(process.hrtime.bigint()) / 1e9;

/** `tersum survey`: looks a picture over and writes what was found. */
export async function surveyCommand(args: string[]): Promise<object> {
  const usage = `Options: --picture IN [--json OUT.json] [--mask OUT.png] [--kinds ${FINDER_NAMES.join(',')}] [--sensitivity 0..1]`;
  const values = options(
    args,
    {
      picture: { type: 'string' },
      json: { type: 'string' },
      mask: { type: 'string' },
      kinds: { type: 'string' },
      sensitivity: { type: 'string', default: '0.5' },
    },
    usage,
  );
  const sensitivity = Number(values.sensitivity);
  if (!(sensitivity >= 0 && sensitivity <= 1)) throw new UsageError('--sensitivity must be a number from 0 to 1.');
  const finders = values.kinds?.split(',') as FinderName[] | undefined;
  const unknown = finders?.find((k) => !FINDER_NAMES.includes(k));
  if (unknown !== undefined) throw new UsageError(`--kinds: there is no “${unknown}”. ${usage}`);
  maskPath(values.mask);
  const { raster } = await read(values.picture, 'picture');
  const started = clock();
  const finds = survey(raster, { finders }).filter((f) => f.score >= scoreFor(sensitivity));
  const seconds = short(clock() - started);
  if (values.json) await writeFile(values.json, `${JSON.stringify(finds, null, 1)}\n`);
  if (values.mask) {
    const mask = covered(
      finds.flatMap((f) => f.shapes),
      raster,
    );
    await writeMask(values.mask, mask, raster.width, raster.height);
  }
  const counts: Record<string, number> = {};
  for (const f of finds) counts[f.kind] = (counts[f.kind] ?? 0) + 1;
  return { width: raster.width, height: raster.height, sensitivity, found: finds.length, counts, seconds };
}

/** `tersum trace`: follows a strand through two or more points. */
export async function traceCommand(args: string[]): Promise<object> {
  const usage = 'Options: --picture IN --points x,y:x,y[:x,y…] [--mask OUT.png] [--json OUT.json]';
  const values = options(
    args,
    { picture: { type: 'string' }, points: { type: 'string' }, mask: { type: 'string' }, json: { type: 'string' } },
    usage,
  );
  maskPath(values.mask);
  const { raster } = await read(values.picture, 'picture');
  const points = pointsOf(values.points, 'points', raster);
  const started = clock();
  const strand = trace(raster, points);
  const seconds = short(clock() - started);
  if (values.mask) await writeMask(values.mask, covered(strandCover(strand), raster), raster.width, raster.height);
  const { width, blur, contrast, length, certainty } = strand;
  const path = strand.points.map(([x, y], i) => ({ x: short(x), y: short(y), width: short(strand.widths[i]) }));
  if (values.json)
    await writeFile(values.json, `${JSON.stringify({ width, blur, contrast, length, certainty, path })}\n`);
  return {
    points: path.length,
    width: short(width),
    blur: short(blur),
    contrast: short(contrast),
    length: short(length),
    certainty: short(certainty),
    seconds,
  };
}

/** `tersum mesh`: completes a mesh from strands that each run through two or more points, and finds clips and knots on it. */
export async function meshCommand(args: string[]): Promise<object> {
  const usage = 'Options: --picture IN --strands x,y:x,y/x,y:x,y[/…] --mask OUT.png [--clips OUT.png]';
  const values = options(
    args,
    { picture: { type: 'string' }, strands: { type: 'string' }, mask: { type: 'string' }, clips: { type: 'string' } },
    usage,
  );
  maskPath(values.mask);
  maskPath(values.clips);
  const { raster } = await read(values.picture, 'picture');
  if (!values.mask) throw new UsageError(`--mask is missing. ${usage}`);
  const lines = (values.strands ?? '').split('/').map((s) => pointsOf(s, 'strands', raster));
  const started = clock();
  let strands;
  try {
    strands = completeMesh(
      raster,
      lines.map((l) => trace(raster, l)),
    );
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
  const clips = findClips(raster, strands);
  const seconds = short(clock() - started);
  if (values.clips) {
    const shapes = clips.flatMap((c) => c.shapes);
    await writeMask(values.clips, covered(shapes, raster), raster.width, raster.height);
  }
  const mask = covered(
    strands.flatMap((s) => strandCover(s)),
    raster,
  );
  await writeMask(values.mask, mask, raster.width, raster.height);
  const share = mask.reduce((n, v) => n + (v ? 1 : 0), 0) / mask.length;
  return {
    traced: lines.length,
    pieces: strands.length,
    coveredShare: Math.round(share * 1e4) / 1e4,
    clips: clips.length,
    seconds,
  };
}
