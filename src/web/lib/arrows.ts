import type { KeyboardEvent } from 'react';
import type { Point } from '../../core/mask/shapes.ts';

/** Shares of the picture's longer side by which a cross moves, and moves with Shift. */
const STEP = 0.02;
const FARTHER = 0.08;

const DIRECTIONS: Record<string, Point> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** Where an arrow key moves a cross over a picture so long; null for other keys. */
export function arrowMove(e: KeyboardEvent, [x, y]: Point, long: number): Point | null {
  const way = DIRECTIONS[e.key];
  const step = (e.shiftKey ? FARTHER : STEP) * long;
  return way ? [x + way[0] * step, y + way[1] * step] : null;
}
