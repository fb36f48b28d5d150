import { emptyPatch } from '../raster/patch.ts';
import { revealed, revealPatch, type RevealMark } from './reveal.ts';

const box = { x: 10, y: 20, width: 40, height: 30 };
const area = (op: 'hide' | 'show', x: number, width: number, feather = 0): RevealMark => ({
  op,
  kind: 'area',
  shapes: [{ op: 'add', kind: 'box', x, y: 20, width, height: 30 }],
  feather,
});
const brush = (op: 'hide' | 'show', x: number, y: number, opacity = 1): RevealMark => ({
  op,
  kind: 'stroke',
  stroke: { points: [[x, y, 1]], size: 12, hardness: 1, flow: 1, opacity, spacing: 0.2, pressure: 'none' },
});
const at = (plane: Float32Array, x: number, y: number) => plane[(y - 20) * 40 + x - 10];

describe('reveal', () => {
  test('without marks all is shown; marks act one after another', () => {
    expect(revealed([], box).every((v) => v === 1)).toBe(true);
    const plane = revealed([area('hide', 10, 40), brush('show', 30.5, 35.5), brush('hide', 30.5, 35.5, 0.25)], box);
    expect(at(plane, 12, 22)).toBe(0);
    expect(at(plane, 30, 35)).toBeCloseTo(0.75, 6);
  });

  test('a feather falls off outside the area, none of which is left', () => {
    const plane = revealed([area('hide', 10, 15, 4)], box);
    for (let x = 10; x < 25; x++) expect(at(plane, x, 30)).toBe(0);
    expect([25, 26, 27, 28, 29].map((x) => at(plane, x, 30))).toEqual(
      [0.2, 0.4, 0.6, 0.8, 1].map((v) => expect.closeTo(v, 5)),
    );
  });

  test('only alpha is taken away; colours and the patch itself stay', () => {
    const patch = emptyPatch(box, { channels: 3, depth: 16 });
    patch.data.fill(40_000);
    const left = revealPatch(patch, [area('hide', 10, 20)]);
    const sample = (x: number) => [...left.data.subarray((x - 10) * 4, (x - 10) * 4 + 4)];
    expect(sample(15)).toEqual([40_000, 40_000, 40_000, 0]);
    expect(sample(35)).toEqual([40_000, 40_000, 40_000, 40_000]);
    expect(patch.data.every((v) => v === 40_000)).toBe(true);
    expect(revealPatch(patch, [])).toBe(patch);
  });
});
