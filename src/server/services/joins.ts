import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { newId } from '../../contract/ids.ts';
import { Refused } from '../../contract/refused.ts';
import { SOFTWARE } from '../../contract/software.ts';
import type { JoinedFrom, JoinRequest } from '../../contract/studio.ts';
import { stayedOutInWords } from '../../core/join/account.ts';
import type { Studio } from '../studio.ts';
import { takeIn } from './intake.ts';

type Parts = Pick<Studio, 'store' | 'pool' | 'tasks' | 'events' | 'background' | 'limits' | 'incoming'>;

/** Name of what some frames make: that of the first one. */
const nameOf = (frames: readonly string[]): string => `${frames[0].replace(/\.[^.]*$/, '').slice(0, 200)} joined.png`;

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
  const { store, pool, tasks, events, background, limits, incoming } = studio;
  if (!(await store.hasJob(jobId))) throw new Refused('This job no longer exists.', 404);
  const rows = await Promise.all(request.pictureIds.map((id) => store.picture(id)));
  const frames = rows.map((row) => {
    if (row?.jobId !== jobId) throw new Refused('One of these pictures is no longer in this job.', 404);
    return { name: row.name, hash: row.original };
  });
  const name = nameOf(frames.map((f) => f.name));
  background.run('Join', async () => {
    const path = join(incoming, newId());
    try {
      await tasks.run(
        null,
        `Join ${frames.length} frames`,
        async (signal, onProgress) => {
          const files = await Promise.all(
            frames.map(async ({ name, hash }) => ({ name, file: await store.readBlob(hash) })),
          );
          const { projection } = request;
          const { account, gaps } = await pool.run(
            'join',
            { frames: files, projection, limits, path },
            { heavy: true, soon: true, signal, onProgress: (done) => onProgress(0.9 * done) },
          );
          const from = { frames, projection, software: SOFTWARE, account };
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
