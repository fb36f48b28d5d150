// The store's own thread: one connection, one transaction at a time, and nothing that anybody else has to wait for.
import { parentPort, workerData } from 'node:worker_threads';
import { Store } from './store.ts';

const { folder, migrations } = workerData as { folder: string; migrations: string };
const store = new Store(folder, migrations);
const methods = store as unknown as Record<string, (...args: unknown[]) => unknown>;

parentPort!.postMessage({ id: 0 });
parentPort!.on('message', ({ id, method, args }: { id: number; method: string; args: unknown[] }) => {
  try {
    parentPort!.postMessage({ id, result: methods[method](...args) });
  } catch (error) {
    parentPort!.postMessage({ id, error: (error as Error).message });
  }
  if (method === 'close') parentPort!.close();
});
