import type { SurveyFind, SurveyRequest, SurveyView, TraceAnswer } from '../../contract/survey.ts';
import type { FaultKind } from '../../contract/document.ts';
import { shiftPoints, shiftShapes, type Point, type Shape } from '../../core/mask/shapes.ts';
import { boxOf, shiftBox } from '../../core/raster/raster.ts';
import { awayFromGaps } from '../../core/find/gaps.ts';
import { FINDER_NAMES, sharesOf } from '../../core/find/survey.ts';
import { strandCover } from '../../core/find/strand/strand-cover.ts';
import type { TracedStrand } from '../../core/find/strand/traced-strand.ts';
import { Refused } from '../../contract/refused.ts';
import type { RequestName } from '../store/journal.ts';
import type { Studio } from '../studio.ts';

type Parts = Pick<Studio, 'store' | 'pool' | 'pictures' | 'editing' | 'tasks' | 'events' | 'background'>;

/** Clips marked on one mesh at most; the surest. */
const MOST_CLIPS = 400;

/** Finds carry figures that nobody needs to more places than this. */
const short = (v: number, places = 2) => Math.round(v * 10 ** places) / 10 ** places;

/** Looks the picture over as it now stands, in the background, and keeps what was found in place of an earlier survey. */
export function startSurvey(studio: Parts, id: string, request: SurveyRequest, taskId: string): void {
  const { tasks, events, background } = studio;
  background.run('Survey', async () => {
    try {
      await tasks.run(id, 'Survey', (signal, progress) => survey(studio, id, request, signal, progress), taskId);
    } finally {
      events.send({ type: 'survey', pictureId: id });
    }
  });
}

async function survey(
  { store, pool, pictures }: Parts,
  id: string,
  request: SurveyRequest,
  signal: AbortSignal,
  onProgress: (done: number) => void,
): Promise<void> {
  await pictures.use(id, async (picture) => {
    const { raster, at } = await pictures.surveyed(picture);
    const there = (shapes: Shape[]) => shiftShapes(shapes, -at[0], -at[1]);
    const options = { ...request, backdrop: there(request.backdrop), subject: there(request.subject) };
    const shares = sharesOf(request.finders ?? FINDER_NAMES, pool.cores);
    const done = shares.map(() => 0);
    const seen = await Promise.all(
      shares.map((finders, n) =>
        pool.run(
          'survey',
          { raster, options: { ...options, finders } },
          {
            heavy: true,
            soon: true,
            signal,
            onProgress: (share) => {
              done[n] = share;
              onProgress(done.reduce((a, b) => a + b) / shares.length);
            },
          },
        ),
      ),
    );
    const { finds } = await pool.run('mergeFinds', { raster, finds: seen.flatMap((s) => s.finds) }, { signal });
    const placed = finds.map((f) => ({ ...f, shapes: shiftShapes(f.shapes, ...at), box: shiftBox(f.box, ...at) }));
    // What is not there yet stands out from all that is.
    const gaps = picture.document.faults.filter((f) => f.kind === 'gap' && f.state === 'open').map((f) => f.shapes);
    const list: SurveyFind[] = awayFromGaps(placed, gaps, shiftBox(boxOf(raster), ...at)).map((f, n) => ({
      ...f,
      id: `f${n + 1}`,
      score: short(f.score, 3),
      width: short(f.width),
      length: short(f.length),
      contrast: short(f.contrast),
      difference: short(f.difference),
      rejected: false,
    }));
    await store.saveSurvey(id, { at: Date.now(), request, finds: list });
  });
}

/** A survey as the interface shows it: rejected ones marked, those in the worklist named by their fault. */
export async function readSurvey({ store, pictures }: Parts, id: string): Promise<SurveyView | null> {
  const survey = await store.survey(id);
  if (!survey) return null;
  const { faults } = await pictures.use(id, ({ document }) => document);
  const taken: Record<string, string> = {};
  for (const f of faults) if (f.found) taken[f.found] = f.id;
  return { ...survey, taken };
}

/** Takes finds into the worklist as one edit. @returns the faults made, by find */
export async function acceptFinds(
  studio: Parts,
  id: string,
  ids: string[],
  request?: RequestName,
): Promise<Record<string, string>> {
  // Asked for once more since the answer was lost: then they are in already.
  if (request && (await studio.store.answerOf(id, request))) return (await readSurvey(studio, id))!.taken;
  const survey = await readSurvey(studio, id);
  if (!survey) throw new Refused('There is no survey of this picture any more. Press Survey again.', 409);
  const wanted = new Set(ids);
  const finds = survey.finds.filter((f) => wanted.has(f.id) && !survey.taken[f.id]);
  if (!finds.length) throw new Refused('All of these are in the worklist already.', 409);
  // Small before large (common practice), so that numbers follow the order of work.
  finds.sort((a, b) => a.box.width * a.box.height - b.box.width * b.box.height);
  const faults = finds.map(({ kind, shapes, id: found }) => ({ kind, shapes, found }));
  await studio.editing.edit(id, { type: 'addFaults', faults }, request);
  return (await readSurvey(studio, id))!.taken;
}

/**
 * Completes the mesh that traced strands belong to and marks all of it as one fault, and each clip or knot on it as one
 * more, in the background.
 * @throws Refused when the faults are no traced strands
 */
export async function startMesh(studio: Parts, id: string, faultIds: string[], taskId: string): Promise<void> {
  const { pool, pictures, editing, tasks, background } = studio;
  const { faults } = await pictures.use(id, ({ document }) => document);
  const chosen = faultIds.map((fid) => faults.find((f) => f.id === fid));
  const lines = chosen.map((f) => (f?.line && f.line.points.length > 5 ? f.line : null));
  if (lines.some((l) => !l)) throw new Refused('Choose strands that were traced: a mesh is completed from those.');
  const strands: TracedStrand[] = lines.map((l) => ({
    points: l!.points,
    widths: l!.points.map(() => l!.width),
    width: l!.width,
    blur: l!.blur,
    contrast: 0,
    length: 0,
    certainty: 1,
    blurs: [],
    unsure: [],
  }));
  background.run('Mesh', () =>
    tasks.run(
      id,
      'Complete the mesh',
      async (signal, onProgress) => {
        const done = await pictures.use(id, async ({ composite: raster, view: { box } }) => {
          const there = strands.map((s) => ({ ...s, points: shiftPoints(s.points, -box.x, -box.y) }));
          const options = { heavy: true, soon: true, onProgress, signal };
          const { strands: all, clips } = await pool.run('mesh', { raster, strands: there }, options);
          return {
            strands: all.map((s) => ({ ...s, points: shiftPoints(s.points, box.x, box.y) })),
            clips: clips.map((c) => ({ ...c, shapes: shiftShapes(c.shapes, box.x, box.y) })),
          };
        });
        if (!done.strands.length) throw new Refused('No further strands were found.');
        const shapes = done.strands.flatMap((s) => strandCover(s));
        const mesh = { kind: 'mesh' as const, shapes };
        const clips = done.clips.slice(0, MOST_CLIPS).map(({ kind, shapes }) => ({ kind, shapes }));
        await editing.edit(id, { type: 'addFaults', faults: [mesh, ...clips], replaces: faultIds });
      },
      taskId,
    ),
  );
}

/** px that a point of a trace may lie beside the picture. */
const BESIDE = 64;

/** Follows a strand through points and marks it as a fault. A task that can be stopped, also by whoever asked going away. */
export async function traceFault(
  { pictures, pool, editing, tasks }: Parts,
  id: string,
  points: Point[],
  request: RequestName | undefined,
  gone: AbortSignal,
): Promise<TraceAnswer> {
  const strand = await pictures.use(id, async ({ composite: raster, view: { box } }) => {
    const there = shiftPoints(points, -box.x, -box.y);
    const off = there.some(
      ([x, y]) => x < -BESIDE || y < -BESIDE || x > raster.width + BESIDE || y > raster.height + BESIDE,
    );
    if (off) throw new Refused('A point lies off the picture. Set the points on the strand.');
    const trace = (signal: AbortSignal) => pool.run('trace', { raster, points: there }, { signal });
    const traced = await tasks.run(id, 'Trace a strand', trace, undefined, gone);
    return { ...traced.strand, points: shiftPoints(traced.strand.points, box.x, box.y) };
  });
  const kind: FaultKind = 'strand';
  const { points: line, width, blur, contrast, length, certainty } = strand;
  const shapes = strandCover(strand);
  const edit = { type: 'addFault' as const, kind, shapes, line: { points: line, width, blur } };
  return editing.edit(id, edit, request, { width, blur, contrast, length, certainty });
}
