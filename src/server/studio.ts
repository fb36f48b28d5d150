import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { limitsFrom, type Limits } from '../codec/limits.ts';
import { Desk } from './services/desk.ts';
import { Events } from './services/events.ts';
import { Taskboard } from './services/taskboard.ts';
import { startStore, type StoreClient } from './store/client.ts';
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
  tasks: Taskboard;
  desk: Desk;
  limits: Limits;
  incoming: string;
  close(): Promise<void>;
}

/** Opens the store and the pool. Files that were on their way in when an earlier server ended are removed. */
export async function openStudio(
  paths: StudioPaths,
  env: Record<string, string | undefined> = process.env,
): Promise<Studio> {
  const incoming = join(paths.data, 'incoming');
  mkdirSync(incoming, { recursive: true });
  for (const name of readdirSync(incoming)) rmSync(join(incoming, name), { force: true });
  const limits = limitsFrom(env);
  const store = await startStore(paths.storeScript, paths.data, paths.migrations);
  const pool = new Pool(paths.poolScript);
  const events = new Events();
  const tasks = new Taskboard(events);
  const desk = new Desk(store, pool, events, tasks, limits);
  return {
    store,
    pool,
    events,
    tasks,
    desk,
    limits,
    incoming,
    async close() {
      await pool.close();
      await store.close();
    },
  };
}
