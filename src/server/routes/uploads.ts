import { createWriteStream } from 'node:fs';
import { readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Router, type Request, type Response } from 'express';
import { EXPORTS, JOBS } from '../../contract/addresses.ts';
import { Refused } from '../../contract/refused.ts';
import { takeIn } from '../services/intake.ts';
import { diskFull, needRoom, saysFull } from '../store/disk.ts';
import { newId } from '../../contract/ids.ts';
import type { Studio } from '../studio.ts';
import { Cancelled } from '../work/work.ts';
import { recordOf } from './exports.ts';
import { signalOf } from './requests.ts';
import { serve } from './serve.ts';

/** Room left beside a file on its way in, bytes: it is written twice before the first copy goes. */
const SPARE = 14e6;

/**
 * Writes what comes in to a file.
 * @throws Refused beyond `most` bytes; what comes after that is read and dropped, and the connection stays usable
 */
function write(req: Request, path: string, most: number, tooLarge: (bytes: number) => Refused): Promise<void> {
  return new Promise((resolve, reject) => {
    const file = createWriteStream(path);
    let bytes = 0;
    const fail = (error: Error) => {
      req.off('data', take);
      req.resume();
      file.destroy();
      reject(error);
    };
    const take = (chunk: Buffer) => {
      bytes += chunk.length;
      if (bytes > most) return fail(tooLarge(bytes));
      if (!file.write(chunk)) {
        req.pause();
        file.once('drain', () => req.resume());
      }
    };
    file.once('error', fail);
    req.on('data', take);
    req.once('end', () => file.end(resolve));
    req.once('close', () => {
      if (!req.complete) fail(new Cancelled());
    });
  });
}

/** A picture comes in as the bare file; its name and the task to report under stand in the query. @returns its id */
async function receivePicture(
  studio: Studio,
  jobId: string,
  { name, task }: { name: string; task?: string },
  req: Request,
  res: Response,
): Promise<string> {
  const { limits, incoming, tasks, store } = studio;
  const most = limits.megabytes * 1e6;
  const declared = Number(req.headers['content-length'] ?? 0);
  const tooLarge = (bytes: number) =>
    new Refused(
      `The file has ${(bytes / 1e6).toFixed(0)} MB; at most ${limits.megabytes} MB are taken. Compress it, or raise TERSUM_MAX_MEGABYTES.`,
      413,
    );
  if (declared > most) throw tooLarge(declared);
  if (!(await store.hasJob(jobId))) throw new Refused('This job no longer exists.', 404);
  needRoom(incoming, 2 * declared + SPARE);
  const path = join(incoming, newId());
  try {
    await write(req, path, most, tooLarge);
    return await tasks.run(
      null,
      `Take in ${name}`,
      (signal, onProgress) => takeIn(studio, jobId, name, path, { signal, onProgress }),
      task,
      signalOf(res),
    );
  } catch (error) {
    if (saysFull(error) && !(error instanceof Refused)) throw diskFull(incoming, 2 * declared + SPARE);
    throw error;
  } finally {
    await rm(path, { force: true });
  }
}

const tooLarge = ({ limits }: Studio) =>
  new Refused(`At most ${limits.megabytes} MB are taken. Raise TERSUM_MAX_MEGABYTES for larger files.`, 413);

/** Files on their way in, whatever they say they are: nothing else may read them first. */
export function uploadRoutes(studio: Studio): Router {
  const routes = Router();
  serve(routes, JOBS.takeIn, async ({ params, query, req, res }) => {
    const id = await receivePicture(studio, params.id, query, req, res);
    studio.events.send({ type: 'jobs' });
    return { id };
  });
  serve(routes, EXPORTS.verify, async ({ params, query: { task }, req, res }) => {
    const { record, original } = await recordOf(studio, params.id);
    const path = join(studio.incoming, newId());
    try {
      await write(req, path, studio.limits.megabytes * 1e6, () => tooLarge(studio));
      const delivered = await readFile(path);
      const file = await studio.store.readBlob(original);
      const frames = await Promise.all(
        (record.original.joined?.frames ?? []).map((f) => studio.store.readBlob(f.sha256)),
      );
      const evidence = { original: file, frames, record: JSON.stringify(record), delivered, limits: studio.limits };
      return await studio.tasks.run(
        null,
        `Verify ${record.delivered.fileName}`,
        (signal, onProgress) => studio.pool.run('verification', evidence, { heavy: true, signal, onProgress }),
        task,
        signalOf(res),
      );
    } finally {
      await rm(path, { force: true });
    }
  });
  return routes;
}
