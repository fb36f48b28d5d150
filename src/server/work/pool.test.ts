import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Refused } from '../../contract/refused.ts';
import { Pool } from './pool.ts';
import { Cancelled } from './work.ts';

/** A thread that does as it is told: waits for a gate, reports, fails or dies. */
const SCRIPT = `
const { parentPort } = require('node:worker_threads');
parentPort.on('message', async ({ id, input, cancel }) => {
  const { gate, fail, die, steps = 0, spin } = input;
  if (die) process.exit(1);
  if (spin) {
    while (!Atomics.load(cancel, 0)) Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 5);
    parentPort.postMessage({ id, error: { message: 'stopped', kind: 'cancelled' } });
    return;
  }
  if (gate) Atomics.wait(gate, 0, 0);
  for (let n = 1; n <= steps; n++) parentPort.postMessage({ id, progress: n / steps });
  if (fail) parentPort.postMessage({ id, error: { message: 'No.', kind: fail, status: 409 } });
  else parentPort.postMessage({ id, result: input.answer });
});
`;
const script = join(mkdtempSync(join(tmpdir(), 'tersum-pool-')), 'thread.cjs');
writeFileSync(script, SCRIPT);

let pool: Pool;
afterEach(() => pool.close());

// The kinds of work do not matter here, only how they are shared out.
const run = (input: object, options = {}) => pool.run('unpack', input as never, options) as Promise<unknown>;
const gate = () => new Int32Array(new SharedArrayBuffer(4));
const open = (g: Int32Array) => {
  Atomics.store(g, 0, 1);
  Atomics.notify(g, 0);
};
const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

describe('the pool of threads', () => {
  test('answers each piece of work with its own result, more of them than threads', async () => {
    pool = new Pool(script, 2);
    const answers = await Promise.all(Array.from({ length: 20 }, (_, n) => run({ answer: n })));
    expect(answers).toEqual(Array.from({ length: 20 }, (_, n) => n));
  });

  test('what cannot be sent to a thread is refused, and its thread is there for the next', async () => {
    pool = new Pool(script, 1);
    const sent = await Promise.allSettled([1, 2, 3].map(() => run({ answer: () => 'functions do not travel' })));
    expect(sent.map((s) => s.status)).toEqual(['rejected', 'rejected', 'rejected']);
    expect(await run({ answer: 'still here' })).toBe('still here');
  });

  test('long work never takes the last thread: a tile comes through while it goes on', async () => {
    pool = new Pool(script, 2);
    expect(pool.cores).toBe(2);
    const gates = [gate(), gate(), gate()];
    const done: string[] = [];
    const long = gates.map((g, n) => run({ gate: g, answer: n }, { heavy: true }).then(() => done.push(`long ${n}`)));
    await pause(100);
    await run({ answer: 'tile' });
    expect(done).toEqual([]);
    // The third waits for one of the two before it, not for the spare thread.
    open(gates[2]);
    await pause(100);
    expect(done).toEqual([]);
    open(gates[0]);
    await Promise.all([long[0], long[2]]);
    expect(done.sort()).toEqual(['long 0', 'long 2']);
    open(gates[1]);
    await long[1];
  });

  test('short work overtakes long work that waits', async () => {
    pool = new Pool(script, 1);
    const [g, h] = [gate(), gate()];
    const order: string[] = [];
    const first = run({ gate: g }, { heavy: true }).then(() => order.push('first'));
    const second = run({ gate: h }, { heavy: true }).then(() => order.push('second'));
    await run({}).then(() => order.push('short'));
    open(h);
    open(g);
    await Promise.all([first, second]);
    expect(order).toEqual(['short', 'first', 'second']);
  });

  test('of long work that waits, what somebody sits and waits for is begun first', async () => {
    pool = new Pool(script, 1);
    const [g, h] = [gate(), gate()];
    open(h);
    const order: string[] = [];
    const long = (name: string, gate: Int32Array, soon = false) =>
      run({ gate }, { heavy: true, soon }).then(() => order.push(name));
    const all = [long('fill', g), long('second fill', h), long('import', h, true), long('third fill', h)];
    await pause(50);
    expect(order).toEqual([]);
    open(g);
    await Promise.all(all);
    expect(order).toEqual(['fill', 'import', 'second fill', 'third fill']);
  });

  test('says how far it is', async () => {
    pool = new Pool(script, 1);
    const seen: number[] = [];
    await run({ steps: 4 }, { onProgress: (done: number) => seen.push(done) });
    expect(seen).toEqual([0.25, 0.5, 0.75, 1]);
  });

  test('what waits can be cancelled before it starts, what runs is told to stop', async () => {
    pool = new Pool(script, 1);
    const g = gate();
    const running = run({ gate: g }, { heavy: true });
    const waits = new AbortController();
    const waiting = run({}, { heavy: true, signal: waits.signal });
    waits.abort();
    await expect(waiting).rejects.toBeInstanceOf(Cancelled);
    open(g);
    await running;
    const stops = new AbortController();
    const spinning = run({ spin: true }, { signal: stops.signal });
    await pause(50);
    stops.abort();
    await expect(spinning).rejects.toBeInstanceOf(Cancelled);
    await expect(run({}, { signal: stops.signal })).rejects.toBeInstanceOf(Cancelled);
    // The thread is free again.
    expect(await run({ answer: 'next' })).toBe('next');
  });

  test('a refusal stays one with its status, anything else is a failure', async () => {
    pool = new Pool(script, 1);
    const refused = await run({ fail: 'refused' }).catch((e: unknown) => e);
    expect(refused).toBeInstanceOf(Refused);
    expect((refused as Refused).status).toBe(409);
    const failed = await run({ fail: 'failed' }).catch((e: unknown) => e);
    expect(failed).not.toBeInstanceOf(Refused);
    expect((failed as Error).message).toBe('No.');
  });
});
