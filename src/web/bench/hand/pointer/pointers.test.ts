import type { Point, Shape } from '../../../../core/mask/shapes.ts';
import type { Drag, Sheet } from './drag.ts';
import { floating } from './floating.ts';
import { outline } from './outline.ts';
import { stroke } from './stroke.ts';

/** Half a px of the screen for one of the picture. */
const apart = (a: Point, b: Point) => Math.hypot(a[0] - b[0], a[1] - b[1]) / 2;
const NOTHING = {} as never;

describe('outline', () => {
  const drawn = (points: Point[]): { shapes: Shape[] | null; drag: Drag } => {
    let shapes: Shape[] | null = null;
    const drag = outline((s) => (shapes = s))(points[0], NOTHING, { apart } as unknown as Sheet)!;
    for (const p of points.slice(1)) drag.move(p, NOTHING);
    drag.end();
    return { shapes, drag };
  };

  test('takes a place where the pointer went far enough on the screen', () => {
    const { shapes } = drawn([[0, 0], [2, 0], [4, 0], [40, 0], [41, 1], [40, 50]]); // prettier-ignore
    expect(shapes).toEqual([{ op: 'add', kind: 'outline', points: [[0, 0], [4, 0], [40, 0], [40, 50]] }]); // prettier-ignore
  });

  test('is shown while it is drawn, and is nothing where it encloses nothing', () => {
    const { shapes, drag } = drawn([[0, 0], [50, 0]]); // prettier-ignore
    expect(drag.outline).toEqual([[0, 0], [50, 0]]); // prettier-ignore
    expect(shapes).toBeNull();
  });
});

describe('stroke', () => {
  /** A bench that takes down what a stroke does to it. */
  function bench(starts = true) {
    const done: unknown[] = [];
    const live: Point[] = [];
    const sheet = {
      apart,
      at: ({ clientX, clientY }: { clientX: number; clientY: number }): Point => [clientX, clientY],
      hand: {
        live: { current: live },
        preview: { moved: () => undefined },
        startStroke(x: number, y: number, pressure: number, straight: boolean) {
          done.push(['start', x, y, pressure, straight]);
          live.push([x, y]);
          return starts;
        },
        extendStroke: (points: Point[]) => done.push(['extend', points]),
        endStroke: () => done.push('end'),
        dropStroke: () => done.push('drop'),
      },
    } as unknown as Sheet;
    return { done, sheet };
  }
  const mouse = { pointerType: 'mouse', pressure: 0.5, shiftKey: false };
  const moved = (list: Array<[number, number]>, more: object = mouse) => {
    const events = list.map(([clientX, clientY]) => ({ clientX, clientY, ...more }));
    return { timeStamp: 1, nativeEvent: { ...events[0], getCoalescedEvents: () => events } } as never;
  };

  test('takes all places that the pointer went through between two frames, but for those that lie on each other', () => {
    const { done, sheet } = bench();
    const drag = stroke([0, 0], mouse as never, sheet)!;
    drag.move([0, 0], moved([[1, 0], [4, 0], [5, 0], [12, 0]])); // prettier-ignore
    drag.end();
    expect(done).toEqual([['start', 0, 0, 1, false], ['extend', [[4, 0, 1], [12, 0, 1]]], 'end']); // prettier-ignore
  });

  test('a pen presses, a mouse does not; shift goes on in a straight line', () => {
    const pen = { pointerType: 'pen', pressure: 0.3, shiftKey: true };
    const { done, sheet } = bench();
    const drag = stroke([7, 8], pen as never, sheet)!;
    drag.move([0, 0], moved([[40, 8]], { ...pen, pressure: 0.8 }));
    expect(done).toEqual([['start', 7, 8, 0.3, true], ['extend', [[40, 8, 0.8]]]]); // prettier-ignore
  });

  test('a second finger drops it; where it cannot begin nothing goes on', () => {
    const { done, sheet } = bench();
    stroke([0, 0], mouse as never, sheet)!.drop!();
    expect(done.at(-1)).toBe('drop');
    expect(stroke([0, 0], mouse as never, bench(false).sheet)).toBeNull();
  });
});

describe('what floats', () => {
  const FLOATING = { at: [500, 400], pose: { turn: 0, scale: 1 }, agreement: 0.9 };
  function dragged(from: Point, to: Point[]) {
    let now: unknown = FLOATING;
    const hand = {
      floating: FLOATING,
      bending: false,
      changeFloating: (next: unknown) => (now = next),
    };
    const sheet = { hand, apart, handle: { scale: () => 0.5 } } as unknown as Sheet;
    const drag = floating(from, NOTHING, sheet)!;
    for (const p of to) drag.move(p, NOTHING);
    return now as typeof FLOATING;
  }

  test('is moved by as much as the pointer in all, and agrees with nothing any more', () => {
    const { at, agreement, pose } = dragged([510, 410], [[520, 410], [540, 380]]); // prettier-ignore
    expect(at).toEqual([530, 370]);
    expect(agreement).toBeUndefined();
    expect(pose).toEqual(FLOATING.pose);
  });

  test('stays where it is while the pointer rests', () => {
    expect(dragged([510, 410], [])).toEqual(FLOATING);
  });
});
