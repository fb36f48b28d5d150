import type { FoundThing, Survey, SurveyRequest } from '../../contract/survey.ts';
import type { FaultKind } from '../../contract/document.ts';
import type { Point } from '../../core/mask/shapes.ts';
import { FINDER_NAMES, sharesOf } from '../../core/find/survey.ts';
import { strandCover, type TracedStrand } from '../../core/find/strand.ts';
import { Refused } from '../../codec/limits.ts';
import type { Studio } from '../studio.ts';

type Parts = Pick<Studio, 'store' | 'pool' | 'desk' | 'tasks' | 'events'>;

/** Clips marked on one mesh at most; the surest. */
const MOST_CLIPS = 400;

/** Finds carry figures that nobody needs to more places than this. */
const short = (v: number, places = 2) => Math.round(v * 10 ** places) / 10 ** places;

/** Looks the picture over as it now stands, in the background, and keeps what was found in place of an earlier survey. */
export function startSurvey(studio: Parts, id: string, request: SurveyRequest, taskId: string): void {
  const { store, pool, desk, tasks, events } = studio;
  void tasks
    .run(
      id,
      'Survey',
      async (signal, onProgress) => {
        const raster = await desk.present(id);
        const shares = sharesOf(request.finders ?? FINDER_NAMES, pool.cores);
        const done = shares.map(() => 0);
        const seen = await Promise.all(
          shares.map((finders, n) =>
            pool.run(
              'survey',
              { raster, options: { ...request, finders } },
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
        const { finds } = await pool.run('settleFinds', { raster, finds: seen.flatMap((s) => s.finds) }, { signal });
        const list: FoundThing[] = finds.map((f, n) => ({
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
      },
      taskId,
    )
    .catch((error: Error) => console.error(`Survey: ${error.message}`))
    .finally(() => events.send({ type: 'changed', pictureId: id }));
}

/** A survey as the interface shows it: rejected ones marked, those in the worklist named by their fault. */
export async function readSurvey(
  { store }: Parts,
  id: string,
): Promise<(Survey & { taken: Record<string, string> }) | null> {
  const survey = await store.survey(id);
  if (!survey) return null;
  const { faults } = await store.document(id);
  const taken: Record<string, string> = {};
  for (const f of faults) if (f.found) taken[f.found] = f.id;
  return { ...survey, taken };
}

/** Takes finds into the worklist as one edit. @returns the faults made, by find */
export async function acceptFinds(studio: Parts, id: string, ids: string[]): Promise<Record<string, string>> {
  const survey = await readSurvey(studio, id);
  if (!survey) throw new Refused('There is no survey of this picture any more. Press Survey again.', 409);
  const wanted = new Set(ids);
  const finds = survey.finds.filter((f) => wanted.has(f.id) && !survey.taken[f.id]);
  if (!finds.length) throw new Refused('All of these are in the worklist already.', 409);
  // Small before large (common practice), so that numbers follow the order of work.
  finds.sort((a, b) => a.box.width * a.box.height - b.box.width * b.box.height);
  await studio.desk.edit(id, {
    type: 'addFaults',
    faults: finds.map(({ kind, shapes, id: found }) => ({ kind, shapes, found })),
  });
  return (await readSurvey(studio, id))!.taken;
}

/**
 * Completes the mesh that traced strands belong to and marks all of it as one fault, and each clip or knot on it as one
 * more, in the background.
 * @throws Refused when the faults are no traced strands
 */
export async function startMesh(studio: Parts, id: string, faultIds: string[], taskId: string): Promise<void> {
  const { store, pool, desk, tasks } = studio;
  const { faults } = await store.document(id);
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
    unsure: [],
  }));
  void tasks
    .run(
      id,
      'Complete the mesh',
      async (signal, onProgress) => {
        const raster = await desk.present(id);
        const done = await pool.run('mesh', { raster, strands }, { heavy: true, soon: true, onProgress, signal });
        if (!done.strands.length) throw new Refused('No further strands were found.');
        const mesh = { kind: 'mesh' as const, shapes: done.strands.flatMap(strandCover) };
        const clips = done.clips.slice(0, MOST_CLIPS).map(({ kind, shapes }) => ({ kind, shapes }));
        await desk.edit(id, { type: 'addFaults', faults: [mesh, ...clips], replaces: faultIds });
      },
      taskId,
    )
    .catch((error: Error) => console.error(`Mesh: ${error.message}`));
}

/** Follows a strand through points and marks it as a fault. */
export async function traceFault(studio: Parts, id: string, points: Point[]): Promise<{ strand: TracedStrand }> {
  const raster = await studio.desk.present(id);
  let traced;
  try {
    traced = await studio.pool.run('trace', { raster, points });
  } catch (error) {
    throw new Refused((error as Error).message);
  }
  const kind: FaultKind = 'strand';
  const { points: line, width, blur } = traced.strand;
  const shapes = strandCover(traced.strand);
  await studio.desk.edit(id, { type: 'addFault', kind, shapes, line: { points: line, width, blur } });
  return traced;
}
