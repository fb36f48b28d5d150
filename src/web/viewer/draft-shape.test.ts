import type { Point, Shape } from '../../core/mask/shapes.ts';
import { dedupe, draftShape, worth } from './draft-shape.ts';

const POINTS: Point[] = [
  [40, 50],
  [20, 90],
  [10, 20],
];

test('a box goes from the first to the last place, whichever way it was drawn', () => {
  expect(draftShape('box', POINTS, 9)).toEqual({ op: 'add', kind: 'box', x: 10, y: 20, width: 30, height: 30 });
  expect(draftShape('box', POINTS.slice().reverse(), 9)).toEqual(draftShape('box', POINTS, 9));
});

test('outlines have no size, brushes and strands that of the tool', () => {
  expect(draftShape('outline', POINTS, 9)).toEqual({ op: 'add', kind: 'outline', points: POINTS });
  expect(draftShape('corners', POINTS, 9)).toEqual(draftShape('outline', POINTS, 9));
  expect(draftShape('brush', POINTS, 9)).toEqual({ op: 'add', kind: 'brush', points: POINTS, size: 9 });
  expect(draftShape('strand', POINTS, 4)).toEqual({ op: 'add', kind: 'strand', points: POINTS, size: 4 });
});

test('nothing is drawn without a tool or a place', () => {
  expect(draftShape(null, POINTS, 9)).toBeNull();
  expect(draftShape('brush', null, 9)).toBeNull();
  expect(draftShape('brush', [], 9)).toBeNull();
});

test('a click alone is a dab of the brush, and no outline, box or strand', () => {
  const click = (tool: 'brush' | 'outline' | 'box' | 'strand') => worth(draftShape(tool, [[40, 50]], 9)!);
  expect(click('brush')).toBe(true);
  expect([click('outline'), click('box'), click('strand')]).toEqual([false, false, false]);
  const drawn = (tool: 'outline' | 'box' | 'strand') => worth(draftShape(tool, POINTS, 9)!);
  expect([drawn('outline'), drawn('box'), drawn('strand')]).toEqual([true, true, true]);
  const flat: Shape = { op: 'add', kind: 'box', x: 0, y: 0, width: 60, height: 0.2 };
  expect(worth(flat)).toBe(false);
});

test('places that lie as good as on the one before are left out', () => {
  expect(dedupe([[0, 0], [0.2, 0.1], [0.4, 0], [3, 0], [3, 0]])).toEqual([[0, 0], [3, 0]]); // prettier-ignore
  expect(dedupe([])).toEqual([]);
});
