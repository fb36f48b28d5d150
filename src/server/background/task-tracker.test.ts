import { Refused } from '../../contract/refused.ts';
import type { ServerEvent } from '../../contract/api.ts';
import { Cancelled } from '../work/work.ts';
import { Events } from './events.ts';
import { TaskTracker } from './task-tracker.ts';

type Told = Extract<ServerEvent, { type: 'task' }>;

function watched() {
  const events = new Events();
  const told: Told[] = [];
  const stop = events.listen((e) => {
    if (e.type === 'task') told.push(e);
  });
  return { events, told, stop, tasks: new TaskTracker(events) };
}

describe('tasks that people see', () => {
  test('tell that they run, how far they are, and that they are done', async () => {
    const { tasks, told } = watched();
    const answer = await tasks.run('p1', 'Survey', async (_, progress) => {
      progress(0.4);
      return 7;
    });
    expect(answer).toBe(7);
    expect(told.map((t) => [t.state, t.done])).toEqual([
      ['running', 0],
      ['running', 0.4],
      ['done', 1],
    ]);
    expect(new Set(told.map((t) => t.id)).size).toBe(1);
    expect(told.every((t) => t.label === 'Survey' && t.pictureId === 'p1')).toBe(true);
  });

  test('a failure is told in its words and reaches who asked', async () => {
    const { tasks, told } = watched();
    const work = tasks.run(null, 'Fill', () => Promise.reject(new Refused('Nothing to fill from.')));
    await expect(work).rejects.toThrow('Nothing to fill from.');
    expect(told.at(-1)).toMatchObject({ state: 'failed', message: 'Nothing to fill from.' });
  });

  test('what went wrong in the program itself is said in a sentence, and told to the log', async () => {
    const { tasks, told } = watched();
    const log = jest.spyOn(console, 'error').mockImplementation(() => undefined);
    const raw = "Cannot read properties of null (reading 'gain')";
    await expect(tasks.run(null, 'Fill', () => Promise.reject(new TypeError(raw)))).rejects.toThrow(raw);
    expect(told.at(-1)!.message).toMatch(/^This failed through a mistake in Tersum.*Try another way/);
    expect(told.at(-1)!.message).not.toContain('Cannot read');
    expect(String(log.mock.calls[0][1])).toContain(raw);
    log.mockRestore();
  });

  test('one that is cancelled hears it and is told as such; once over it cannot be cancelled', async () => {
    const { tasks, told } = watched();
    const work = tasks.run(
      'p1',
      'Fill',
      (signal) => new Promise((_, reject) => signal.addEventListener('abort', () => reject(new Cancelled()))),
      'task1',
    );
    expect(tasks.cancel('other')).toBe(false);
    expect(tasks.cancel('task1')).toBe(true);
    await expect(work).rejects.toBeInstanceOf(Cancelled);
    expect(told.at(-1)).toMatchObject({ id: 'task1', state: 'cancelled' });
    expect(tasks.cancel('task1')).toBe(false);
  });

  test('who no longer listens hears nothing', async () => {
    const { tasks, told, stop } = watched();
    stop();
    await tasks.run(null, 'Quiet', async () => undefined);
    expect(told).toEqual([]);
  });
});

describe('ending what goes on', () => {
  /** Work that goes on until it is told to stop. */
  const lasting = (signal: AbortSignal) =>
    new Promise<never>((_, reject) => signal.addEventListener('abort', () => reject(new Cancelled())));

  test('of one picture, and only of that one', async () => {
    const { tasks, told } = watched();
    const ended: string[] = [];
    const begin = (id: string) =>
      tasks.run(id, 'Fill', lasting).catch((error: unknown) => {
        expect(error).toBeInstanceOf(Cancelled);
        ended.push(id);
      });
    const first = [begin('p1'), begin('p1')];
    const other = begin('p2');
    await tasks.cancelOf('p1');
    await Promise.all(first);
    expect(ended).toEqual(['p1', 'p1']);
    expect(told.filter((t) => t.state === 'cancelled').map((t) => t.pictureId)).toEqual(['p1', 'p1']);
    await tasks.close();
    await other;
    expect(ended).toEqual(['p1', 'p1', 'p2']);
    await expect(tasks.run('p3', 'Fill', lasting)).rejects.toBeInstanceOf(Cancelled);
  });

  test('with who asked for it: their going away stops it, and nothing listens on afterwards', async () => {
    const { tasks } = watched();
    const asker = new AbortController();
    const work = tasks.run('p1', 'Trace', lasting, undefined, asker.signal);
    asker.abort();
    await expect(work).rejects.toBeInstanceOf(Cancelled);
    const other = new AbortController();
    let listening = 0;
    other.signal.addEventListener = () => void listening++;
    other.signal.removeEventListener = () => void listening--;
    await tasks.run('p1', 'Trace', async () => 1, undefined, other.signal);
    expect(listening).toBe(0);
  });
});
