import { Cancelled } from '../work/work.ts';
import { newId } from '../../contract/ids.ts';
import type { Events } from './events.ts';
import { sentenceFor } from './sentence.ts';

interface Running {
  pictureId: string | null;
  controller: AbortController;
  ended: Promise<void>;
}

/** Long work that people see: progress, cancel, outcome. */
export class TaskTracker {
  private readonly running = new Map<string, Running>();
  private closing = false;

  constructor(private readonly events: Events) {}

  /**
   * Runs `work` under a task that can be watched and cancelled. Resolves as `work` does.
   * @param outer ends the task too, such as the connection of whoever waits for it
   * @param words what there is to say when it is done
   */
  async run<T>(
    pictureId: string | null,
    label: string,
    work: (signal: AbortSignal, progress: (done: number) => void) => Promise<T>,
    id = newId(),
    outer?: AbortSignal,
    words?: (result: T) => string | undefined,
  ): Promise<T> {
    const controller = new AbortController();
    if (this.closing || outer?.aborted) throw new Cancelled();
    const stop = () => controller.abort();
    outer?.addEventListener('abort', stop, { once: true });
    const tell = (done: number, state: 'running' | 'done' | 'failed' | 'cancelled', message?: string) =>
      this.events.send({ type: 'task', id, pictureId, label, done, state, message });
    let end = () => undefined as void;
    const ended = new Promise<void>((resolve) => (end = resolve));
    this.running.set(id, { pictureId, controller, ended });
    tell(0, 'running');
    try {
      const result = await work(controller.signal, (done) => tell(done, 'running'));
      tell(1, 'done', words?.(result));
      return result;
    } catch (error) {
      if (error instanceof Cancelled) tell(0, 'cancelled');
      else tell(0, 'failed', sentenceFor(error));
      throw error;
    } finally {
      outer?.removeEventListener('abort', stop);
      this.running.delete(id);
      end();
    }
  }

  cancel(id: string): boolean {
    const task = this.running.get(id);
    task?.controller.abort();
    return task !== undefined;
  }

  /** Cancels all that goes on with a picture; resolves when it has ended. */
  async cancelOf(pictureId: string): Promise<void> {
    await this.end((task) => task.pictureId === pictureId);
  }

  /** Cancels everything and takes nothing new; resolves when it has ended. */
  async close(): Promise<void> {
    this.closing = true;
    await this.end(() => true);
  }

  private async end(which: (task: Running) => boolean): Promise<void> {
    const tasks = [...this.running.values()].filter(which);
    for (const task of tasks) task.controller.abort();
    await Promise.all(tasks.map((task) => task.ended));
  }
}
