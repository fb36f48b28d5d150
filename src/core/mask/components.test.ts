import { randomiser } from '../../../bench/planted.ts';
import { componentBoxes } from './components.ts';

/** The same, pixel by pixel. */
function byFlooding(mask: Uint8Array, width: number, height: number) {
  const left = mask.slice();
  const out = [];
  for (let start = 0; start < left.length; start++) {
    if (!left[start]) continue;
    let [x0, y0, x1, y1] = [width, height, 0, 0];
    const todo = [start];
    left[start] = 0;
    for (let i = todo.pop(); i !== undefined; i = todo.pop()) {
      const [x, y] = [i % width, Math.floor(i / width)];
      [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++)
          if (left[v * width + u]) {
            left[v * width + u] = 0;
            todo.push(v * width + u);
          }
    }
    out.push({ x: x0, y: y0, width: x1 - x0 + 1, height: y1 - y0 + 1 });
  }
  return out;
}

test('groups are those that flooding finds, in the same order, however dense and wide', () => {
  const random = randomiser(3);
  for (let n = 0; n < 400; n++) {
    const [width, height] = [1 + Math.floor(23 * random()), 1 + Math.floor(17 * random())];
    const dense = random();
    const mask = Uint8Array.from({ length: width * height }, () =>
      random() < dense ? 1 + Math.floor(200 * random()) : 0,
    );
    expect(componentBoxes(mask, width, height)).toEqual(byFlooding(mask, width, height));
  }
});

test('arms that meet far below are one group, and a ring holds another within', () => {
  const rows = ['#.#.#', '#.#.#', '#...#', '#.#.#', '#####'];
  const mask = Uint8Array.from(rows.join(''), (c) => (c === '#' ? 1 : 0));
  expect(componentBoxes(mask, 5, 5)).toEqual([
    { x: 0, y: 0, width: 5, height: 5 },
    { x: 2, y: 0, width: 1, height: 2 },
  ]);
});
