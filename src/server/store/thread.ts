// The store's own thread: one connection, one transaction at a time. What takes long goes in parts, between which others are served.
import { parentPort, workerData } from 'node:worker_threads';
import { Refused } from '../../contract/refused.ts';
import { Store } from './store.ts';

const { folder, migrations } = workerData as { folder: string; migrations: string };
const store = new Store(folder, migrations);
const methods = store as unknown as Record<string, (...args: unknown[]) => unknown>;

async function answer({ id, method, args }: { id: number; method: string; args: unknown[] }): Promise<void> {
  try {
    const result: unknown = methods[method](...args);
    // Answered in the order they were asked, unless a method says that it takes long.
    parentPort!.postMessage({ id, result: result instanceof Promise ? ((await result) as unknown) : result });
  } catch (error) {
    const { message } = error as Error;
    parentPort!.postMessage({ id, error: message, status: error instanceof Refused ? error.status : undefined });
  }
  if (method === 'close') parentPort!.close();
}

parentPort!.postMessage({ id: 0 });
parentPort!.on('message', (message: Parameters<typeof answer>[0]) => {
  // What cannot even be answered ends the thread, which whoever waits for it hears.
  answer(message).catch((error: unknown) =>
    setImmediate(() => {
      throw error;
    }),
  );
});
