import { Worker } from 'node:worker_threads';
import type { Store } from './store.ts';

/** The store as the rest of the server sees it: the same methods, answered by its thread. */
export type StoreClient = {
  [M in keyof Store]: Store[M] extends (...args: infer A) => infer R ? (...args: A) => Promise<R> : never;
};

/** Starts the store's thread. Resolves once the file is open and its schema is current. */
export function startStore(script: string, folder: string, migrations: string): Promise<StoreClient> {
  const worker = new Worker(script, { workerData: { folder, migrations } });
  const waiting = new Map<number, { resolve: (value: never) => void; reject: (error: Error) => void }>();
  let next = 1;
  const client = new Proxy({} as StoreClient, {
    get: (_, method: string) =>
      method === 'then'
        ? undefined
        : (...args: unknown[]) =>
            new Promise((resolve, reject) => {
              const id = next++;
              waiting.set(id, { resolve, reject });
              worker.postMessage({ id, method, args });
            }),
  });
  return new Promise((resolve, reject) => {
    worker.on('error', (error) => {
      reject(error);
      for (const w of waiting.values()) w.reject(error);
      waiting.clear();
    });
    worker.on('message', ({ id, result, error }: { id: number; result?: never; error?: string }) => {
      if (id === 0) return resolve(client);
      const w = waiting.get(id);
      waiting.delete(id);
      if (error !== undefined) w?.reject(new Error(error));
      else w?.resolve(result as never);
    });
  });
}
