import { RefusedError } from './http.ts';
import { Outbox, type Drawer, type Letter } from './outbox.ts';

/** A drawer that outlives outboxes. */
function drawer(): Drawer & { letters: Letter[] } {
  const letters: Letter[] = [];
  return {
    letters,
    all: () => Promise.resolve(letters.slice()),
    keep: (letter) => Promise.resolve(void letters.push(letter)),
    forget: (onces) => {
      for (const once of onces)
        letters.splice(
          letters.findIndex((l) => l.once === once),
          1,
        );
      return Promise.resolve();
    },
  };
}

describe('what changes a picture', () => {
  test('is sent in order, each until it is answered, under the same name', async () => {
    const sent: Array<[string, unknown]> = [];
    let away = 3;
    const kept = drawer();
    const box = new Outbox(
      ({ once, body }) => {
        sent.push([once, body]);
        return away-- > 0 ? Promise.reject(new TypeError('Failed to fetch')) : Promise.resolve(body);
      },
      kept,
      undefined,
      1,
    );
    const states: string[] = [];
    box.subscribe(() => states.push(`${box.standing.state} ${box.standing.waiting}`));
    const answers = await Promise.all([1, 2, 3].map((n) => box.post('edits', { n })));
    expect(answers).toEqual([{ n: 1 }, { n: 2 }, { n: 3 }]);
    expect(sent.map(([, body]) => (body as { n: number }).n)).toEqual([1, 1, 1, 1, 2, 3]);
    expect(new Set(sent.map(([once]) => once)).size).toBe(3);
    expect(states).toContain('failed 3');
    expect(states.at(-1)).toBe('saved 0');
    expect(kept.letters).toEqual([]);
  });

  test('that an earlier window left is sent by the next, in order, and names stay', async () => {
    const kept = drawer();
    const never = new Outbox(() => new Promise(() => undefined), kept);
    void never.post('edits', { n: 1 });
    void never.post('undo');
    expect(kept.letters).toHaveLength(2);
    const names = kept.letters.map((l) => l.once);

    const sent: Letter[] = [];
    const next = new Outbox((letter) => Promise.resolve(void sent.push(letter)), kept);
    await next.restore();
    await next.post('edits', { n: 2 });
    expect(sent.map((l) => [l.what, l.body])).toEqual([
      ['edits', { n: 1 }],
      ['undo', undefined],
      ['edits', { n: 2 }],
    ]);
    expect(sent.slice(0, 2).map((l) => l.once)).toEqual(names);
    expect(kept.letters).toEqual([]);
    await next.restore();
    expect(sent).toHaveLength(3);
  });

  test('and is answered while the drawer is looked through is not sent again', async () => {
    const kept = drawer();
    const sent: Letter[] = [];
    let found!: (letters: Letter[]) => void;
    const slow = { ...kept, all: () => new Promise<Letter[]>((resolve) => (found = resolve)) };
    const box = new Outbox((letter) => Promise.resolve(void sent.push(letter)), slow);
    const restored = box.restore();
    await box.post('edits', { n: 1 });
    found([...sent]);
    await restored;
    await box.post('edits', { n: 2 });
    expect(sent.map((l) => l.body)).toEqual([{ n: 1 }, { n: 2 }]);
  });

  test('and is refused is told and not sent again, nor is what follows about a row that was not made', async () => {
    const sent: unknown[] = [];
    let refused = 0;
    const kept = drawer();
    const box = new Outbox(
      ({ body }) => {
        const { id, no } = body as { id: string; no?: true };
        sent.push(body);
        return no ? Promise.reject(new RefusedError('The mark lies outside.', 422)) : Promise.resolve(id);
      },
      kept,
      () => refused++,
    );
    const answers = await Promise.all([
      box.post('edits', { type: 'placeRepair', id: 'a', no: true }),
      box.post('edits', { type: 'changeFault', id: 'b' }),
      box.post('edits', { id: 'a', strokes: 1 }),
    ]);
    expect(answers).toEqual([null, 'b', null]);
    expect(sent).toEqual([
      { type: 'placeRepair', id: 'a', no: true },
      { type: 'changeFault', id: 'b' },
    ]);
    expect(box.standing).toEqual({ state: 'saved', waiting: 0, refusal: 'The mark lies outside.' });
    expect([refused, kept.letters.length]).toEqual([1, 0]);
    box.dismiss();
    expect(box.standing.refusal).toBeNull();
    // A change that is refused says nothing about the next one of the same row.
    const two = [
      box.post('edits', { type: 'changeFault', id: 'b', no: true }),
      box.post('edits', { id: 'b', set: {} }),
    ];
    expect(await Promise.all(two)).toEqual([null, 'b']);
  });

  test('waits longer each time while the server is away, and goes at once when the connection is back', async () => {
    let tries = 0;
    const box = new Outbox(
      () => (++tries < 3 ? Promise.reject(new TypeError('Failed to fetch')) : Promise.resolve('yes')),
      drawer(),
      undefined,
      60_000,
    );
    const answer = box.post('edits', {});
    for (let n = 0; n < 2; n++) {
      await new Promise((resolve) => setTimeout(resolve, 5));
      expect(box.standing.state).toBe('failed');
      box.retry();
    }
    expect(await answer).toBe('yes');
  });
});
