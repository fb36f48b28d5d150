import { Worker } from 'node:worker_threads';
import { Refused } from '../../contract/refused.ts';
import type { Store } from './store.ts';

/** The store as the rest of the server sees it: the same methods, answered by its thread. */
export type StoreClient = {
  [M in keyof Store]: Store[M] extends (...args: infer A) => infer R ? (...args: A) => Promise<Awaited<R>> : never;
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
    const end = (error: Error) => {
      reject(error);
      for (const w of waiting.values()) w.reject(error);
      waiting.clear();
    };
    worker.on('error', end);
    worker.on('exit', () => end(new Error('The store is closed.')));
    worker.on(
      'message',
      ({ id, result, error, status }: { id: number; result?: never; error?: string; status?: number }) => {
        if (id === 0) return resolve(client);
        const w = waiting.get(id);
        waiting.delete(id);
        if (error !== undefined) w?.reject(status ? new Refused(error, status) : new Error(error));
        else w?.resolve(result as never);
      },
    );
  });
}
