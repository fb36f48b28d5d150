import type { Shape } from '../mask/shapes.ts';
import { awayFromGaps } from './gaps.ts';

const picture = { x: -100, y: 0, width: 1200, height: 600 };
const found = (name: string, x: number, y: number, width: number, height: number) => ({
  name,
  box: { x, y, width, height },
  shapes: [{ op: 'add', kind: 'box', x, y, width, height }] satisfies Shape[],
});
/** Nothing is there at the left end. */
const gap: Shape[] = [{ op: 'add', kind: 'box', x: -100, y: 0, width: 160, height: 600 }];

test('what lies in an open gap or along its edge is no find; what lies elsewhere, or only reaches there, is', () => {
  const finds = [
    found('within', -80, 100, 100, 60),
    found('along', 62, 50, 14, 400),
    found('speck beside', 64, 500, 3, 3),
    found('speck', 400, 300, 3, 3),
    found('reaches there', 40, 200, 300, 80),
  ];
  expect(awayFromGaps(finds, [gap], picture).map((f) => f.name)).toEqual(['speck', 'reaches there']);
  expect(awayFromGaps(finds, [], picture)).toEqual(finds);
});
