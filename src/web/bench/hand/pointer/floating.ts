import type { Point } from '../../../../core/mask/shapes.ts';
import { bent, handlesOf, turnedBy } from '../floating.ts';
import { knobAt, NEAR } from '../ring.ts';
import type { Begin } from './drag.ts';

/** Moves, turns, sizes or bends what floats. */
export const floating: Begin = (start, _, sheet) => {
  const { hand, handle, apart } = sheet;
  // What is changed is what the drag itself made last: the bench is drawn anew later.
  let now = hand.floating!;
  let last: Point = start;
  const change = (next: typeof now) => {
    now = next;
    sheet.hand.changeFloating(next);
  };
  const handleAt = hand.bending ? handlesOf(now).findIndex((q) => apart(start, q) < NEAR) : -1;
  const knob = !hand.bending && apart(start, knobAt(now.at, 0, now.pose.turn, handle.scale())) < NEAR;
  return {
    move(p) {
      const [dx, dy] = [p[0] - last[0], p[1] - last[1]];
      if (handleAt >= 0) change(bent(now, handleAt, dx, dy));
      else if (knob) change({ ...now, pose: turnedBy(now.pose, now.at, last, p), agreement: undefined });
      else change({ ...now, at: [now.at[0] + dx, now.at[1] + dy], agreement: undefined });
      last = p;
    },
    end: () => undefined,
  };
};
