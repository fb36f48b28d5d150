import type { Edit, PictureState } from '../../contract/api.ts';
import type { PictureDocument } from '../../contract/document.ts';
import { rowNames } from '../../contract/ids.ts';
import { planEdit } from '../../document/edits/plan-edit.ts';
import { applyOperations, invert, operationsOf } from '../../document/operations.ts';
import { Optimist } from './optimistic.ts';

const SIZE = { width: 400, height: 300 };
const EMPTY: PictureDocument = { faults: [], layers: [], repairs: [], steps: [] };
const mark = (x: number): Edit => ({
  type: 'addFault',
  kind: 'speck',
  shapes: [{ op: 'add', kind: 'brush', points: [[x, 50]], size: 12 }],
});

/** A server that answers when it is told to. */
class Server {
  state = { document: EMPTY, undo: null, redo: null, picture: { facts: SIZE } } as unknown as PictureState;
  private readonly done: Array<{ label: string; operations: ReturnType<typeof operationsOf> }> = [];
  private readonly undone: typeof this.done = [];

  private become(document: PictureDocument): void {
    const [undo, redo] = [this.done.at(-1)?.label ?? null, this.undone.at(-1)?.label ?? null];
    this.state = { ...this.state, document, undo, redo };
  }

  edit(edit: Edit, request: string): void {
    const { label, changes } = planEdit(this.state.document, edit, SIZE, [], {}, rowNames(request));
    const operations = operationsOf(changes);
    this.done.push({ label, operations });
    this.undone.length = 0;
    this.become(applyOperations(this.state.document, operations));
  }

  step(direction: 'undo' | 'redo'): void {
    const [from, to] = direction === 'undo' ? [this.done, this.undone] : [this.undone, this.done];
    const step = from.pop()!;
    to.push(step);
    const operations = direction === 'undo' ? invert(step.operations) : step.operations;
    this.become(applyOperations(this.state.document, operations));
  }
}

const request = (n: number) => `request${String(n).padStart(12, '0')}`;
const numbers = (state: PictureState) => state.document.faults.map((f) => f.number);

test('an edit shows at once, with the names that the server will give its rows, and only once when it is answered', () => {
  const server = new Server();
  const optimist = new Optimist();
  const asked = optimist.edit(server.state, mark(40), request(1));
  const before = optimist.shown(server.state);
  expect(numbers(before)).toEqual([1]);
  expect(before.undo).toBe('Mark fault 1');
  expect(server.state.document.faults).toHaveLength(0);
  server.edit(mark(40), request(1));
  asked.end();
  asked.answered(server.state.undo);
  expect(optimist.shown(server.state)).toBe(server.state);
  expect(server.state.document).toEqual(before.document);
});

test('ten edits and ten undos show one by one before anything is answered, and end where the server ends', () => {
  const server = new Server();
  const optimist = new Optimist();
  const answers: Array<() => void> = [];
  for (let n = 0; n < 10; n++) {
    const edit = mark(20 + 30 * n);
    const asked = optimist.edit(server.state, edit, request(n));
    answers.push(() => {
      server.edit(edit, request(n));
      asked.end();
      asked.answered(server.state.undo);
    });
  }
  expect(numbers(optimist.shown(server.state))).toHaveLength(10);
  for (let n = 9; n >= 0; n--) {
    const asked = optimist.step(server.state, 'undo');
    expect(numbers(optimist.shown(server.state))).toHaveLength(n);
    answers.push(() => {
      server.step('undo');
      asked.end();
    });
  }
  const redone = optimist.step(server.state, 'redo');
  expect(numbers(optimist.shown(server.state))).toEqual([1]);
  for (const answer of answers) {
    answer();
    // Whatever is answered by now, the same is seen.
    expect(numbers(optimist.shown(server.state))).toEqual([1]);
  }
  server.step('redo');
  redone.end();
  expect(optimist.shown(server.state)).toBe(server.state);
  expect(numbers(server.state)).toEqual([1]);
});

test('what is refused is not taken back by undo', () => {
  const server = new Server();
  const optimist = new Optimist();
  const first = optimist.edit(server.state, mark(40), request(1));
  server.edit(mark(40), request(1));
  first.end();
  first.answered(server.state.undo);
  const second = optimist.edit(server.state, mark(90), request(2));
  second.end();
  second.answered(null);
  optimist.step(server.state, 'undo');
  expect(numbers(optimist.shown(server.state))).toEqual([]);
});

test('undo of what another window did waits for the server', () => {
  const server = new Server();
  const optimist = new Optimist();
  const own = optimist.edit(server.state, mark(40), request(1));
  server.edit(mark(40), request(1));
  own.end();
  own.answered(server.state.undo);
  server.edit(mark(90), request(7));
  const asked = optimist.step(server.state, 'undo');
  expect(numbers(optimist.shown(server.state))).toEqual([1, 2]);
  server.step('undo');
  asked.end();
  expect(numbers(optimist.shown(server.state))).toEqual([1]);
});

test('undo after a fill, which only the server can work out, shows nothing before its time', () => {
  const server = new Server();
  const optimist = new Optimist();
  const edit = optimist.edit(server.state, mark(40), request(1));
  server.edit(mark(40), request(1));
  edit.end();
  edit.answered(server.state.undo);
  const fill = optimist.unknown();
  optimist.step(server.state, 'undo');
  expect(numbers(optimist.shown(server.state))).toEqual([1]);
  optimist.step(server.state, 'undo');
  expect(numbers(optimist.shown(server.state))).toEqual([]);
  fill.end();
});

test('what an earlier window left unanswered shows once the picture is known; not twice where the server has it', () => {
  const server = new Server();
  const optimist = new Optimist();
  const first = optimist.again(mark(40), request(1));
  const second = optimist.again(mark(90), request(2));
  expect(numbers(optimist.shown(server.state))).toEqual([1, 2]);
  // It had arrived: only its answer was lost.
  server.edit(mark(40), request(1));
  expect(numbers(optimist.shown(server.state))).toEqual([1, 2]);
  first.end();
  first.answered('Mark fault 1');
  server.edit(mark(90), request(2));
  second.end();
  second.answered('Mark fault 2');
  expect(optimist.shown(server.state)).toBe(server.state);
  expect(numbers(server.state)).toEqual([1, 2]);
});
