// A thread of the pool: takes one task at a time and reports progress.
import { setPriority } from 'node:os';
import { parentPort } from 'node:worker_threads';
import { Refused } from '../../codec/limits.ts';
import { handlers } from './handlers.ts';
import { Cancelled, type TaskKind } from './tasks.ts';

// Requests go before pixels. On Linux this concerns the calling thread alone, elsewhere it would slow the whole server.
if (process.platform === 'linux') setPriority(5);

parentPort!.on(
  'message',
  async ({ id, kind, input, cancel }: { id: number; kind: TaskKind; input: never; cancel: Int32Array }) => {
    let last = 0;
    const progress = (done: number) => {
      if (Atomics.load(cancel, 0)) throw new Cancelled();
      const now = Date.now();
      if (now - last < 60) return;
      last = now;
      parentPort!.postMessage({ id, progress: done });
    };
    try {
      progress(0);
      parentPort!.postMessage({ id, result: await handlers[kind](input, progress) });
    } catch (error) {
      const { message } = error as Error;
      const type = error instanceof Cancelled ? 'cancelled' : error instanceof Refused ? 'refused' : 'failed';
      parentPort!.postMessage({
        id,
        error: { message, kind: type, status: error instanceof Refused ? error.status : undefined },
      });
    }
  },
);
