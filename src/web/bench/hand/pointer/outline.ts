import type { Point, Shape } from '../../../../core/mask/shapes.ts';
import type { Begin } from './drag.ts';

/** Least px on the screen from point to point of an outline. */
const STEP = 1.5;

/** Draws around a place, which is lifted or brought back. */
export const outline =
  (done: (shapes: Shape[]) => void): Begin =>
  (p, _, { apart }) => {
    const points: Point[] = [p];
    return {
      outline: points,
      move(q) {
        if (apart(q, points[points.length - 1]) > STEP) points.push(q);
      },
      end() {
        if (points.length > 2) done([{ op: 'add', kind: 'outline', points }]);
      },
    };
  };
