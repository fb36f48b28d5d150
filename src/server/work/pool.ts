import { cpus } from 'node:os';
import { Worker } from 'node:worker_threads';
import { Refused } from '../../codec/limits.ts';
import { Cancelled, type TaskInput, type TaskKind, type TaskOutput } from './tasks.ts';

interface Waiting {
  id: number;
  kind: TaskKind;
  input: unknown;
  heavy: boolean;
  soon: boolean;
  cancel: Int32Array;
  resolve: (value: never) => void;
  reject: (error: Error) => void;
  onProgress?: (done: number) => void;
}

/** Options of one piece of work. */
export interface RunOptions {
  /** long work, which must leave a thread free for the view */
  heavy?: boolean;
  /** long work that somebody sits and waits for: it goes before other long work that has not begun */
  soon?: boolean;
  onProgress?: (done: number) => void;
  signal?: AbortSignal;
}

/** Long work takes as many threads as there are cores; one more is always left for the view and for what is done by hand. */
export class Pool {
  private readonly idle: Worker[] = [];
  private readonly queue: Waiting[] = [];
  private readonly running = new Map<Worker, Waiting>();
  private readonly size: number;
  /** how many pieces of long work go on at once */
  readonly cores: number;
  private next = 1;

  constructor(
    private readonly script: string,
    threads = cpus().length,
  ) {
    this.cores = Math.max(1, threads);
    this.size = this.cores + 1;
    for (let i = 0; i < this.size; i++) this.start();
  }

  run<K extends TaskKind>(kind: K, input: TaskInput<K>, options: RunOptions = {}): Promise<TaskOutput<K>> {
    return new Promise((resolve, reject) => {
      if (options.signal?.aborted) return reject(new Cancelled());
      const cancel = new Int32Array(new SharedArrayBuffer(4));
      const job: Waiting = {
        id: this.next++,
        kind,
        input,
        heavy: options.heavy ?? false,
        soon: options.soon ?? false,
        cancel,
        resolve,
        reject,
        onProgress: options.onProgress,
      };
      options.signal?.addEventListener('abort', () => {
        Atomics.store(cancel, 0, 1);
        const at = this.queue.indexOf(job);
        if (at >= 0) {
          this.queue.splice(at, 1);
          reject(new Cancelled());
        }
      });
      this.queue.push(job);
      this.dispatch();
    });
  }

  async close(): Promise<void> {
    await Promise.all([...this.idle, ...this.running.keys()].map((w) => w.terminate()));
  }

  private start(): void {
    const worker = new Worker(this.script);
    worker.on(
      'message',
      (message: {
        id: number;
        progress?: number;
        result?: never;
        error?: { message: string; kind: string; status?: number };
      }) => {
        const job = this.running.get(worker);
        if (!job || job.id !== message.id) return;
        if (message.progress !== undefined) return job.onProgress?.(message.progress);
        this.running.delete(worker);
        this.idle.push(worker);
        if (message.error) {
          const { kind, message: text, status } = message.error;
          job.reject(
            kind === 'cancelled' ? new Cancelled() : kind === 'refused' ? new Refused(text, status) : new Error(text),
          );
        } else job.resolve(message.result as never);
        this.dispatch();
      },
    );
    worker.on('error', (error) => {
      // A thread that died (out of memory, most likely) takes its task with it, never the server.
      this.running.get(worker)?.reject(new Error(`The work could not be finished: ${error.message}`));
      this.running.delete(worker);
      const at = this.idle.indexOf(worker);
      if (at >= 0) this.idle.splice(at, 1);
      this.start();
      this.dispatch();
    });
    this.idle.push(worker);
  }

  private dispatch(): void {
    while (this.idle.length && this.queue.length) {
      const heavy = [...this.running.values()].filter((j) => j.heavy).length;
      let at = this.queue.findIndex((j) => !j.heavy);
      if (at < 0 && heavy < this.size - 1)
        at = Math.max(
          0,
          this.queue.findIndex((j) => j.soon),
        );
      if (at < 0) return;
      const [job] = this.queue.splice(at, 1);
      const worker = this.idle.pop()!;
      this.running.set(worker, job);
      worker.postMessage({ id: job.id, kind: job.kind, input: job.input, cancel: job.cancel });
    }
  }
}
