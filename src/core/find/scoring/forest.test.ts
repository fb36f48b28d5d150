import { fitForest, writeForest, type Example } from '../../../../bench/boost.ts';
import { randomiser } from '../../../../bench/planted.ts';
import { CLIP_FOREST } from '../strand/clips.ts';
import { CURVE_FOREST } from '../lines/likely-pieces.ts';
import { NEIGHBOUR_FEATURES } from '../specks/neighbour-features.ts';
import { SPECK_FOREST } from '../specks/specks.ts';
import { CURVE_FEATURES } from '../lines/line-features.ts';
import { logitOf, readForest } from './forest.ts';
import { SPECK_FEATURES } from '../specks/speck-features.ts';

const OPTIONS = { trees: 60, depth: 3, rate: 0.2, least: 1, ridge: 1, rows: 0.8, columns: 1 };

/** A ring in the plane: no straight line tells its inside from its outside. */
function ring(count: number, random: () => number): Example[] {
  return Array.from({ length: count }, () => {
    const x = Float32Array.from([random() * 2 - 1, random() * 2 - 1, random()]);
    return { x, y: Math.hypot(x[0], x[1]) < 0.6 ? 1 : 0, weight: 1 };
  });
}

describe('forests', () => {
  test('a forest read from text gives what its leaves add up to', () => {
    const forest = readForest(['0.5', '0:1 1:2 -1:0|1 2 4 8', '1:10 0:0 0:0|-1 -2 -4 -8']);
    expect(forest.depth).toBe(2);
    // First tree: x0 ≤ 1, then x1 ≤ 2; second: x1 ≤ 10, then x0 > 0.
    expect(logitOf(forest, [1, 2])).toBe(0.5 + 1 - 2);
    expect(logitOf(forest, [1, 3])).toBe(0.5 + 2 - 2);
    // A node without a feature sends everything to its left.
    expect(logitOf(forest, [1.5, 99])).toBe(0.5 + 4 - 8);
  });

  test('fitting learns what no straight line divides, and survives being written', () => {
    const random = randomiser(4);
    const forest = fitForest(ring(1500, random), { ...OPTIONS, random });
    const fresh = ring(1000, random);
    const right = fresh.filter((e) => logitOf(forest, e.x) > 0 === (e.y === 1)).length;
    expect(right / fresh.length).toBeGreaterThan(0.95);
    const again = readForest(writeForest(forest));
    const off = fresh.map((e) => Math.abs(logitOf(again, e.x) - logitOf(forest, e.x)));
    // Thresholds are rounded to four digits, so a few examples change sides of a node.
    expect(off.filter((d) => d > 0.05).length).toBeLessThan(20);
  });

  test('examples of no weight do not count', () => {
    const random = randomiser(5);
    const data = ring(800, random);
    const lies = data.map((e): Example => ({ ...e, y: e.y ? 0 : 1, weight: 1e-6 }));
    const forest = fitForest([...data, ...lies], { ...OPTIONS, random });
    const right = data.filter((e) => logitOf(forest, e.x) > 0 === (e.y === 1)).length;
    expect(right / data.length).toBeGreaterThan(0.95);
  });

  test.each([
    ['specks', SPECK_FOREST, SPECK_FEATURES.length + NEIGHBOUR_FEATURES.length],
    ['curves', CURVE_FOREST, CURVE_FEATURES.length],
    ['clips', CLIP_FOREST, SPECK_FEATURES.length + 5],
  ])('the forest of %s asks only for features that are measured', (_, forest, count) => {
    expect(forest.trees.length).toBeGreaterThan(50);
    const asked = forest.trees.flatMap((t) => t.feature);
    expect(Math.max(...asked)).toBeLessThan(count);
    expect(forest.trees.every((t) => t.leaf.every(Number.isFinite) && t.threshold.every(Number.isFinite))).toBe(true);
  });
});
