import type { ServerEvent } from '../../contract/api.ts';
import { Cancelled } from '../work/tasks.ts';
import { Events } from './events.ts';
import { Once } from './once.ts';
import { Taskboard } from './taskboard.ts';

type Told = Extract<ServerEvent, { type: 'task' }>;

function watched() {
  const events = new Events();
  const told: Told[] = [];
  const stop = events.listen((e) => {
    if (e.type === 'task') told.push(e);
  });
  return { events, told, stop, board: new Taskboard(events) };
}

describe('tasks that people see', () => {
  test('tell that they run, how far they are, and that they are done', async () => {
    const { board, told } = watched();
    const answer = await board.run('p1', 'Survey', async (_, progress) => {
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
    const { board, told } = watched();
    const work = board.run(null, 'Fill', () => Promise.reject(new Error('Nothing to fill from.')));
    await expect(work).rejects.toThrow('Nothing to fill from.');
    expect(told.at(-1)).toMatchObject({ state: 'failed', message: 'Nothing to fill from.' });
  });

  test('one that is cancelled hears it and is told as such; once over it cannot be cancelled', async () => {
    const { board, told } = watched();
    const work = board.run(
      'p1',
      'Fill',
      (signal) => new Promise((_, reject) => signal.addEventListener('abort', () => reject(new Cancelled()))),
      'task1',
    );
    expect(board.cancel('other')).toBe(false);
    expect(board.cancel('task1')).toBe(true);
    await expect(work).rejects.toBeInstanceOf(Cancelled);
    expect(told.at(-1)).toMatchObject({ id: 'task1', state: 'cancelled' });
    expect(board.cancel('task1')).toBe(false);
  });

  test('who no longer listens hears nothing', async () => {
    const { board, told, stop } = watched();
    stop();
    await board.run(null, 'Quiet', async () => undefined);
    expect(told).toEqual([]);
  });
});

describe('requests that may come twice', () => {
  test('are done once and answered alike, also while the first still runs', async () => {
    const once = new Once();
    let runs = 0;
    let finish: (v: number) => void = () => undefined;
    const work = () => {
      runs++;
      return new Promise<number>((resolve) => (finish = resolve));
    };
    const [first, again] = [once.run('a', work), once.run('a', work)];
    finish(5);
    expect(await Promise.all([first, again, once.run('a', work)])).toEqual([5, 5, 5]);
    expect(runs).toBe(1);
  });

  test('without a name, or with another, each is done for itself', async () => {
    const once = new Once();
    let runs = 0;
    const work = async () => ++runs;
    expect(await once.run(undefined, work)).toBe(1);
    expect(await once.run(undefined, work)).toBe(2);
    expect(await once.run('a', work)).toBe(3);
    expect(await once.run('b', work)).toBe(4);
  });

  test('one that failed is tried again, and the oldest are forgotten', async () => {
    const once = new Once();
    await expect(once.run('a', () => Promise.reject(new Error('away')))).rejects.toThrow('away');
    expect(await once.run('a', async () => 'now')).toBe('now');
    for (let n = 0; n < 501; n++) await once.run(`n${n}`, async () => n);
    expect(await once.run('a', async () => 'anew')).toBe('anew');
    expect(await once.run('n500', async () => -1)).toBe(500);
  });
});
