import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { totalmem } from 'node:os';
import { limitsFrom, type Limits } from '../codec/limits.ts';
import { Editing } from './pictures/editing.ts';
import { Exports } from './pictures/exports.ts';
import { Pictures } from './pictures/pictures.ts';
import { Renderings } from './pictures/renderings.ts';
import { Views } from './pictures/views.ts';
import { Letterbox } from './deliver/letterbox.ts';
import { Background } from './background/background.ts';
import { Events } from './background/events.ts';
import { TaskTracker } from './background/task-tracker.ts';
import { startStore, type StoreClient } from './store/client.ts';
import { lockFolder } from './store/lock.ts';
import { Pool } from './work/pool.ts';

/** Where the parts of a running server live. */
export interface StudioPaths {
  /** everything Tersum keeps: one database, and files on their way in */
  data: string;
  storeScript: string;
  poolScript: string;
  migrations: string;
}

/** The running application without its web server. */
export interface Studio {
  store: StoreClient;
  pool: Pool;
  events: Events;
  tasks: TaskTracker;
  background: Background;
  pictures: Pictures;
  renderings: Renderings;
  editing: Editing;
  views: Views;
  exports: Exports;
  letterbox: Letterbox;
  limits: Limits;
  incoming: string;
  /** Stops what goes on with a picture, then removes it. */
  removePicture(id: string): Promise<void>;
  /** Stops what goes on with a job's pictures, then removes it with them. */
  removeJob(id: string): Promise<void>;
  /** Stops everything in order; what was answered is on disk. */
  close(): Promise<void>;
}

/** Something that keeps the server from starting, in a sentence that says what to do. */
export class CannotStart extends Error {}

/** Removes files that were on their way in when an earlier server ended. */
function emptyIncoming(incoming: string): void {
  for (const entry of readdirSync(incoming, { withFileTypes: true })) {
    if (entry.isDirectory())
      throw new CannotStart(
        `There is a folder “${entry.name}” among the files on their way in (${incoming}). Move it elsewhere: nothing of one’s own is kept there.`,
      );
    rmSync(join(incoming, entry.name), { force: true });
  }
}

/** Pixels kept in memory: a quarter of the machine's, within bounds, or as TERSUM_CACHE_MEGABYTES says. */
function cacheBytes(env: Record<string, string | undefined>): number {
  const asked = Number(env.TERSUM_CACHE_MEGABYTES);
  if (asked > 0) return asked * 1e6;
  return Math.min(6e9, Math.max(5e8, totalmem() / 4));
}

/** Opens the store and the pool. @throws CannotStart in words */
export async function openStudio(
  paths: StudioPaths,
  env: Record<string, string | undefined> = process.env,
): Promise<Studio> {
  const incoming = join(paths.data, 'incoming');
  try {
    mkdirSync(incoming, { recursive: true });
  } catch (error) {
    throw new CannotStart(
      `The data folder cannot be used: ${(error as Error).message}. Set TERSUM_DATA to another one.`,
    );
  }
  const unlock = lockFolder(paths.data);
  if (!unlock)
    throw new CannotStart(
      `Another Tersum is at work on ${paths.data}. Use that one, or set TERSUM_DATA to another folder for this one.`,
    );
  let store: StoreClient;
  try {
    emptyIncoming(incoming);
    store = await startStore(paths.storeScript, paths.data, paths.migrations);
  } catch (error) {
    unlock();
    throw error instanceof CannotStart ? error : new CannotStart((error as Error).message);
  }
  const limits = limitsFrom(env);
  const pool = new Pool(paths.poolScript);
  const events = new Events();
  const tasks = new TaskTracker(events);
  const background = new Background();
  const pictures = new Pictures(store, pool, events, limits, cacheBytes(env));
  const renderings = new Renderings(pictures, tasks, background);
  const editing = new Editing(pictures, renderings);
  background.run('Tidying', () => store.tidy());
  return {
    store,
    pool,
    events,
    tasks,
    background,
    pictures,
    renderings,
    editing,
    views: new Views(pictures),
    exports: new Exports(pictures, renderings, pool),
    letterbox: new Letterbox(join(paths.data, 'letterbox')),
    limits,
    incoming,
    removePicture: (id) => renderings.without([id], () => pictures.remove([id], () => store.removePicture(id))),
    async removeJob(id) {
      const own = await store.picturesOf(id);
      await renderings.without(own, () => pictures.remove(own, () => store.removeJob(id)));
    },
    async close() {
      renderings.close();
      await tasks.close();
      await background.ended();
      await pool.close();
      await store.close();
      unlock();
      for (const name of readdirSync(incoming)) rmSync(join(incoming, name), { force: true, recursive: true });
    },
  };
}
