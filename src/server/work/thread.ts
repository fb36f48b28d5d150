// A thread of the pool: takes one task at a time and reports progress.
import { setPriority } from 'node:os';
import { parentPort } from 'node:worker_threads';
import { Refused } from '../../contract/refused.ts';
import { forgetLayouts } from '../../core/repair/fill/layout/fill-by-layout.ts';
import { KINDS, NATIVE, type TaskKind } from './kinds.ts';
import { Cancelled, type Work } from './work.ts';

// Requests go before pixels. On Linux this concerns the calling thread alone, elsewhere it would slow the whole server.
if (process.platform === 'linux') setPriority(5);

interface Asked {
  id: number;
  kind: TaskKind;
  input: never;
  cancel: Int32Array;
}

async function work({ id, kind, input, cancel }: Asked): Promise<void> {
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
    const { run } = KINDS[kind] as Work<unknown, unknown>;
    parentPort!.postMessage({ id, result: await run(input, progress) });
  } catch (error) {
    const { message, constructor } = error as Error;
    // What the core refuses it says in a plain Error, for people; anything else is a fault of ours.
    const refused = error instanceof Refused || (constructor === Error && !NATIVE.includes(kind));
    const type = error instanceof Cancelled ? 'cancelled' : refused ? 'refused' : 'failed';
    parentPort!.postMessage({
      id,
      error: { message, kind: type, status: error instanceof Refused ? error.status : undefined },
    });
  }
}

/** How long a thread that has nothing to do keeps what further tries of its last cover would share, ms. */
const KEPT_MS = 60_000;
const resting = setTimeout(forgetLayouts, KEPT_MS);
resting.unref();

parentPort!.on('message', (asked: Asked) => {
  resting.refresh();
  // What cannot even be answered ends the thread; the pool starts another.
  work(asked).catch((error: unknown) =>
    setImmediate(() => {
      throw error;
    }),
  );
});
parentPort!.postMessage({ ready: true, native: NATIVE });
