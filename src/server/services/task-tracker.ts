import { Cancelled } from '../work/tasks.ts';
import { newId } from '../store/store.ts';
import type { Events } from './events.ts';

/** Long work that people see: progress, cancel, outcome. */
export class Taskboard {
  private readonly running = new Map<string, AbortController>();

  constructor(private readonly events: Events) {}

  /** Runs `work` under a task that can be watched and cancelled. Resolves as `work` does. */
  async run<T>(
    pictureId: string | null,
    label: string,
    work: (signal: AbortSignal, progress: (done: number) => void) => Promise<T>,
    id = newId(),
  ): Promise<T> {
    const controller = new AbortController();
    this.running.set(id, controller);
    const tell = (done: number, state: 'running' | 'done' | 'failed' | 'cancelled', message?: string) =>
      this.events.send({ type: 'task', id, pictureId, label, done, state, message });
    tell(0, 'running');
    try {
      const result = await work(controller.signal, (done) => tell(done, 'running'));
      tell(1, 'done');
      return result;
    } catch (error) {
      if (error instanceof Cancelled) tell(0, 'cancelled');
      else tell(0, 'failed', (error as Error).message);
      throw error;
    } finally {
      this.running.delete(id);
    }
  }

  cancel(id: string): boolean {
    const controller = this.running.get(id);
    controller?.abort();
    return controller !== undefined;
  }
}
