import type { PictureState } from '../../../contract/api.ts';
import type { HandSpec, Repair } from '../../../contract/document.ts';
import type { Stroke } from '../../../core/mask/strokes.ts';
import { keyOf, sessionOn, type Session } from './session.ts';

const stroke = (x: number): Stroke => ({
  points: [[x, 5, 1]],
  size: 8,
  hardness: 1,
  flow: 1,
  opacity: 1,
  spacing: 0.2,
  pressure: 'none',
});
const donor = { from: [50, 5], at: [5, 5], turn: 0, scale: 1, mirror: 'none', travels: true } as const;
const copy = (strokes: Stroke[], set: object = {}): HandSpec => ({
  method: 'copy',
  strokes,
  donor: { ...donor, from: [50, 5], at: [5, 5], ...set },
});
const repair = (id: string, spec: HandSpec) => ({ id, tries: [{ id: 't', spec }], chosen: 't' }) as Repair;
const state = (...repairs: Repair[]) => ({ document: { repairs } }) as PictureState;
const fault = { id: 'f' } as never;

describe('the session that a stroke belongs to', () => {
  test('is a new one where nothing was painted yet, or where donor or settings are others', () => {
    const first = sessionOn(null, copy([stroke(5)]), state(), fault, undefined);
    expect(first).toMatchObject({ repairId: null, asked: null, strokes: [], faultId: 'f', pending: 0 });
    first.pending = 1;
    const other = sessionOn(first, copy([stroke(9)], { from: [70, 5] }), state(), fault, undefined);
    expect(other).not.toBe(first);
  });

  test('goes on while its strokes are unanswered, also before its repair is there', () => {
    const now: Session = { ...sessionOn(null, copy([stroke(5)]), state(), fault, undefined), asked: 'r9', pending: 1 };
    expect(sessionOn(now, copy([stroke(9)]), state(), fault, undefined)).toBe(now);
  });

  test('begins on the chosen repair where that is alike, with the strokes it has', () => {
    const onto = repair('r1', copy([stroke(1), stroke(2)]));
    const made = sessionOn(null, copy([stroke(5)]), state(onto), fault, onto);
    expect([made.repairId, made.strokes]).toEqual(['r1', [stroke(1), stroke(2)]]);
    const shade: HandSpec = { method: 'shade', strokes: [stroke(5)], effect: 'tone', stops: 1, range: 'all', seed: 1 };
    expect(sessionOn(null, shade, state(onto), fault, onto).repairId).toBeNull();
  });

  test('takes over what others, or undo, did to its repair meanwhile', () => {
    const now: Session = {
      ...sessionOn(null, copy([]), state(), fault, undefined),
      repairId: 'r1',
      strokes: [stroke(1), stroke(2)],
    };
    const undone = repair('r1', copy([stroke(1)]));
    expect(sessionOn(now, copy([stroke(5)]), state(undone), fault, undone).strokes).toEqual([stroke(1)]);
    // Gone altogether: the next stroke is a repair of its own.
    expect(sessionOn(now, copy([stroke(5)]), state(), fault, undefined).repairId).toBeNull();
    // On another fault, too.
    expect(sessionOn(now, copy([stroke(5)]), state(undone), { id: 'g' } as never, undefined)).not.toBe(now);
  });

  test('a donor that returns with each stroke is the same wherever that begins', () => {
    expect(keyOf(copy([], { travels: false, at: [1, 1] }))).toBe(keyOf(copy([], { travels: false, at: [9, 9] })));
    expect(keyOf(copy([], { at: [1, 1] }))).not.toBe(keyOf(copy([], { at: [9, 9] })));
  });
});
