import type { Server } from 'node:http';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Express } from 'express';
import { addDemo } from './demo.ts';
import { createApp } from './http/app.ts';
import { settingsFrom, type ServerSettings } from './http/settings.ts';
import { CannotStart, openStudio, type Studio } from './studio.ts';

const here = dirname(fileURLToPath(import.meta.url));
const root = resolve(here, '../..');
/** How long a stop may take before the process ends all the same, ms; what was answered is on disk in any case. */
const STOP_MS = 8_000;

let studio: Studio | undefined;
let server: Server | undefined;
let stopping = false;

/** Stops in order: no new requests, then what goes on, then the store. */
function stop(code: number): void {
  if (stopping) return;
  stopping = true;
  setTimeout(() => process.exit(code || 1), STOP_MS).unref();
  server?.close();
  server?.closeAllConnections();
  const closed = studio ? studio.close() : Promise.resolve();
  closed.then(
    () => process.exit(code),
    (error: unknown) => {
      console.error('While stopping:', error);
      process.exit(code || 1);
    },
  );
}

// The last resort: nothing should get here. What does is logged, and the server stops in order rather than go on half broken.
const lastResort = (what: string) => (error: unknown) => {
  console.error(`${what}, Tersum stops:`, error);
  stop(1);
};
process.on('uncaughtException', lastResort('An error that nobody caught'));
process.on('unhandledRejection', lastResort('A failure that nobody waited for'));
process.on('SIGINT', () => stop(0));
process.on('SIGTERM', () => stop(0));

function listen(app: Express, { host, port }: ServerSettings): Promise<Server> {
  return new Promise((resolve, reject) => {
    const listening: Server = app.listen(port, host, (error?: Error) => {
      if (!error) return resolve(listening);
      const used = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
      const why = used ? 'something else listens there' : error.message;
      reject(new CannotStart(`Tersum cannot listen on ${host}:${port}: ${why}. Set TERSUM_PORT to a free port.`));
    });
    // Longer than browsers keep a connection idle, so that a request never meets one that is just being closed.
    listening.keepAliveTimeout = 120_000;
  });
}

try {
  const settings = settingsFrom(process.env);
  console.log('Opening the studio…');
  studio = await openStudio({
    data: resolve(process.env.TERSUM_DATA ?? join(root, 'data')),
    storeScript: join(here, 'store.js'),
    poolScript: join(here, 'pool.js'),
    migrations: join(here, 'migrations'),
  });
  if (process.env.TERSUM_DEMO !== 'off') await addDemo(studio, join(root, 'demo/pictures'));
  server = await listen(await createApp(studio, settings, join(root, 'dist/web')), settings);
  const address = server.address();
  const shown = typeof address === 'object' && address ? address.port : settings.port;
  console.log(`Tersum is at http://${settings.host.includes(':') ? `[${settings.host}]` : settings.host}:${shown}`);
} catch (error) {
  console.error(error instanceof CannotStart ? error.message : error);
  stop(1);
}
