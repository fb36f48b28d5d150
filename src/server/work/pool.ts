import { cpus } from 'node:os';
import { Worker } from 'node:worker_threads';
import { Refused } from '../../contract/refused.ts';
import type { TaskInput, TaskKind, TaskOutput } from './kinds.ts';
import { Cancelled } from './work.ts';

interface Waiting {
  id: number;
  kind: TaskKind;
  input: unknown;
  heavy: boolean;
  soon: boolean;
  late: boolean | 'spare';
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
  /** long work that can wait until there is no other; `spare`: which nobody asked for, and which leaves a core free */
  late?: boolean | 'spare';
  onProgress?: (done: number) => void;
  signal?: AbortSignal;
}

/** How long work that is cancelled has to end by itself, ms. */
const GRACE_MS = 250;

type Answer = {
  /** the thread has loaded what it needs */
  ready?: true;
  /** kinds of work that are never cut off */
  native?: TaskKind[];
  id: number;
  progress?: number;
  result?: never;
  error?: { message: string; kind: string; status?: number };
};

/**
 * Long work takes as many threads as there are cores; one more is always left for the view and for what is done by hand. Our own,
 * since well-known ones (piscina, workerpool; from memory) keep no thread free for short work, know one order of waiting instead of
 * three (somebody waits, usual, can wait), and either let cancelled work run on or kill its thread at once: here it may end by
 * itself through shared memory, and is cut off after a while unless native code of its own is at work in it.
 */
export class Pool {
  private readonly idle: Worker[] = [];
  private readonly queue: Waiting[] = [];
  private readonly running = new Map<Worker, Waiting>();
  /** threads that are still loading their native modules, which must not be cut off */
  private readonly loading = new Set<Worker>();
  private readonly size: number;
  /** kinds of work that are never cut off, as the threads say once they are ready */
  private native: ReadonlySet<TaskKind> = new Set();
  private closing = false;
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
    const { signal, onProgress, heavy = false, soon = false, late = false } = options;
    return new Promise((resolve, reject) => {
      if (signal?.aborted || this.closing) return reject(new Cancelled());
      const cancel = new Int32Array(new SharedArrayBuffer(4));
      const stop = () => this.stop(job);
      const ended = () => signal?.removeEventListener('abort', stop);
      const job: Waiting = {
        id: this.next++,
        kind,
        input,
        heavy,
        soon,
        late,
        cancel,
        resolve: (value) => {
          ended();
          resolve(value);
        },
        reject: (error) => {
          ended();
          reject(error);
        },
        onProgress,
      };
      signal?.addEventListener('abort', stop, { once: true });
      this.queue.push(job);
      this.dispatch();
    });
  }

  async close(): Promise<void> {
    this.closing = true;
    for (const job of this.queue.splice(0)) job.reject(new Cancelled());
    const workers = [...this.idle, ...this.running.keys()];
    for (const job of this.running.values()) job.reject(new Cancelled());
    this.running.clear();
    await Promise.all(workers.map((w) => w.terminate()));
  }

  /** Takes a job out of the queue, or tells its thread to end it; a thread that does not hear is replaced. */
  private stop(job: Waiting): void {
    Atomics.store(job.cancel, 0, 1);
    const at = this.queue.indexOf(job);
    if (at >= 0) {
      this.queue.splice(at, 1);
      job.reject(new Cancelled());
      return;
    }
    if (this.native.has(job.kind)) return;
    const timer = setTimeout(() => {
      for (const [worker, running] of this.running) {
        if (running !== job) continue;
        // One that has not begun yet will hear it as soon as it does.
        if (this.loading.has(worker)) job.reject(new Cancelled());
        else this.replace(worker, new Cancelled());
      }
    }, GRACE_MS);
    timer.unref();
  }

  /** Ends a thread with what it was doing, and starts another in its place. */
  private replace(worker: Worker, error: Error): void {
    const job = this.running.get(worker);
    this.running.delete(worker);
    this.loading.delete(worker);
    const at = this.idle.indexOf(worker);
    if (at >= 0) this.idle.splice(at, 1);
    job?.reject(error);
    worker.removeAllListeners();
    worker.on('error', () => undefined);
    worker.terminate().catch(() => undefined);
    if (this.closing) return;
    this.start();
    this.dispatch();
  }

  private start(): void {
    const worker = new Worker(this.script);
    this.loading.add(worker);
    worker.on('message', (answer: Answer) => this.hear(worker, answer));
    // A thread that died (out of memory, most likely) takes its task with it, never the server.
    const died = (why: string) => {
      if (!this.closing) console.error(`A thread of the pool ended: ${why}.`);
      this.replace(
        worker,
        new Refused('There was not enough memory for this, most likely. Try it on a smaller area.', 500),
      );
    };
    worker.on('error', (error) => died(error.message));
    worker.on('exit', () => died('its thread ended'));
    this.idle.push(worker);
  }

  private hear(worker: Worker, answer: Answer): void {
    if (answer.ready) {
      this.loading.delete(worker);
      this.native = new Set(answer.native);
      return;
    }
    const job = this.running.get(worker);
    if (!job || job.id !== answer.id) return;
    if (answer.progress !== undefined) return job.onProgress?.(answer.progress);
    this.running.delete(worker);
    this.idle.push(worker);
    if (answer.error) {
      const { kind, message, status } = answer.error;
      if (kind === 'cancelled') job.reject(new Cancelled());
      else job.reject(kind === 'refused' ? new Refused(message, status) : new Error(message));
    } else job.resolve(answer.result as never);
    this.dispatch();
  }

  /** Whether work that nobody asked for may begin: it leaves a core free for whoever comes meanwhile. */
  private hasSpare(): boolean {
    const spare = [...this.running.values()].filter((j) => j.late === 'spare').length;
    return spare < Math.max(1, this.cores - 1);
  }

  private dispatch(): void {
    while (this.idle.length && this.queue.length) {
      const heavy = [...this.running.values()].filter((j) => j.heavy).length;
      let at = this.queue.findIndex((j) => !j.heavy);
      if (at < 0 && heavy < this.size - 1) {
        at = this.queue.findIndex((j) => j.soon);
        if (at < 0) at = this.queue.findIndex((j) => !j.late);
        if (at < 0) at = this.queue.findIndex((j) => j.late !== 'spare' || this.hasSpare());
      }
      if (at < 0) return;
      const [job] = this.queue.splice(at, 1);
      const worker = this.idle.pop()!;
      this.running.set(worker, job);
      try {
        worker.postMessage({ id: job.id, kind: job.kind, input: job.input, cancel: job.cancel });
      } catch (error) {
        // It cannot be sent: whoever asked hears of it, and the thread stays for others.
        this.running.delete(worker);
        this.idle.push(worker);
        job.reject(error as Error);
      }
    }
  }
}
