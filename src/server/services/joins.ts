import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { z } from 'zod';
import { newId } from '../../contract/ids.ts';
import { Refused } from '../../contract/refused.ts';
import { SOFTWARE } from '../../contract/software.ts';
import type { JoinedFrom, joinAgainSchema, JoinRequest } from '../../contract/studio.ts';
import type { Shape } from '../../core/mask/shapes.ts';
import { stayedOutInWords } from '../../core/join/account.ts';
import { JOIN_VERSION } from '../../core/join/join.ts';
import type { Studio } from '../studio.ts';
import { takeIn } from './intake.ts';

type Parts = Pick<Studio, 'store' | 'pool' | 'tasks' | 'events' | 'background' | 'limits' | 'incoming'>;

/** Name of what some frames make: that of the first one. */
const nameOf = (frames: readonly string[], times: number): string =>
  `${frames[0].replace(/\.[^.]*$/, '').slice(0, 200)} joined${times ? ` ${times + 1}` : ''}.png`;

/** What there is to say when it is done, beside what stands on its card. */
function joinedInWords({ frames, account }: JoinedFrom): string {
  const names = frames.map((f) => f.name);
  const out = stayedOutInWords(names, account);
  return out ? `Joined ${frames.length - account.left.length} frames. ${out}` : '';
}

/**
 * Joins pictures of a job to a new one, in the background: their files as they came, which are kept with it.
 * @throws Refused where one is not there
 */
export async function startJoin(studio: Parts, jobId: string, request: JoinRequest, taskId: string): Promise<void> {
  const { store } = studio;
  if (!(await store.hasJob(jobId))) throw new Refused('This job no longer exists.', 404);
  const rows = await Promise.all(request.pictureIds.map((id) => store.picture(id)));
  const frames = rows.map((row) => {
    if (row?.jobId !== jobId) throw new Refused('One of these pictures is no longer in this job.', 404);
    return { name: row.name, hash: row.original };
  });
  run(studio, jobId, { frames, projection: request.projection, marks: request.marks }, taskId);
}

/**
 * Joins the frames of a joined picture again to another one, with a place taken from one of them. What was wished before still is.
 * @throws Refused where it was not joined
 */
export async function joinAgain(
  studio: Parts,
  id: string,
  { frame, keep }: z.infer<typeof joinAgainSchema>,
  taskId: string,
): Promise<void> {
  const row = await studio.store.picture(id);
  if (!row) throw new Refused('This picture no longer exists.', 404);
  if (!row.joined || frame >= row.joined.frames.length)
    throw new Refused('This picture was not joined from such a frame.', 409);
  const { frames, projection, marks = [] } = row.joined;
  const wished = frames.map((_, n) => {
    const own = marks[n] ?? null;
    if (n !== frame) return own;
    const shape: Shape = { op: 'add', kind: 'box', ...keep };
    return { keep: [...(own?.keep ?? []), shape], leave: own?.leave ?? [] };
  });
  run(studio, row.jobId, { frames, projection, marks: wished }, taskId);
}

/** A frame as it came. @throws Refused where it was deleted meanwhile */
async function frameOf(store: Parts['store'], name: string, hash: string): Promise<Uint8Array> {
  try {
    return await store.readBlob(hash);
  } catch (error) {
    if (error instanceof Refused && error.status === 404)
      throw new Refused(`${name} was deleted while the frames were joined. Nothing was made; join the others.`, 409);
    throw error;
  }
}

/** Joins frames that are kept, in the background. */
function run(
  studio: Parts,
  jobId: string,
  { frames, projection, marks }: Pick<JoinedFrom, 'frames' | 'projection' | 'marks'>,
  taskId: string,
): void {
  const { store, pool, tasks, events, background, limits, incoming } = studio;
  background.run('Join', async () => {
    const path = join(incoming, newId());
    try {
      await tasks.run(
        null,
        `Join ${frames.length} frames`,
        async (signal, onProgress) => {
          const files = await Promise.all(
            frames.map(async ({ name, hash }) => ({ name, file: await frameOf(store, name, hash) })),
          );
          const { account, gaps } = await pool.run(
            'join',
            { frames: files, projection, marks: marks ?? [], limits, path },
            { heavy: true, soon: true, signal, onProgress: (done) => onProgress(0.9 * done) },
          );
          const from: JoinedFrom = {
            frames,
            projection,
            software: SOFTWARE,
            version: JOIN_VERSION,
            account,
            ...(marks && { marks }),
          };
          const job = (await store.listJobs()).find((j) => j.id === jobId);
          const times = job?.pictures.filter((p) => p.joined?.frames[0].hash === frames[0].hash).length ?? 0;
          const name = nameOf(
            frames.map((f) => f.name),
            times,
          );
          // It goes on with the frames as they came: without one of them it could not be joined again.
          for (const { name: own, hash } of frames) await frameOf(store, own, hash);
          if (!(await store.hasJob(jobId)))
            throw new Refused('The job was deleted while its frames were joined. Nothing was made.', 409);
          await takeIn(studio, jobId, name, path, { signal }, { from, gaps });
          return from;
        },
        taskId,
        undefined,
        joinedInWords,
      );
    } finally {
      await rm(path, { force: true });
      events.send({ type: 'jobs' });
    }
  });
}
