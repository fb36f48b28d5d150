import { bestPath } from './best-path.ts';
import { fitModel, type Sector } from './model.ts';

/** Sectors of tones between two, seen through what a stain does, both sides scattering by so many levels. */
function sectors(through: (v: number, c: number) => number, scatter: number): Sector[] {
  let seed = 3;
  const chance = () => {
    seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
    return (((seed >> 10) % 2001) / 1000 - 1) * scatter;
  };
  return Array.from({ length: 48 }, (_, n) => {
    const tones = [40 + ((n * 37) % 160), 50 + ((n * 53) % 150), 30 + ((n * 29) % 170)];
    return {
      outside: tones.map((v) => v + chance()),
      inside: tones.map((v, c) => through(v + chance(), c)),
      weight: 1,
    };
  });
}

test('a colour laid over is told by one gain and an offset a channel, in spite of what both sides differ by', () => {
  const colour = [120, 90, 40];
  const { model, certainty } = fitModel(sectors((v, c) => 0.7 * v + 0.3 * colour[c], 9))!;
  model.gain.forEach((g) => expect(g).toBeCloseTo(0.7, 1));
  model.offset.forEach((o, c) => expect(Math.abs(o - 0.3 * colour[c])).toBeLessThan(5));
  expect(certainty).toBeGreaterThan(1.5);
});

test('a shadow is a gain alone, of which nothing is laid over', () => {
  const { model } = fitModel(sectors((v) => 0.6 * v, 4))!;
  expect(model.offset).toEqual([0, 0, 0]);
  model.gain.forEach((g) => expect(g).toBeCloseTo(0.6, 1));
});

test('nothing is sure where the two sides differ by chance alone, and nothing is said of too few', () => {
  expect(fitModel(sectors((v) => v, 9))!.certainty).toBeLessThan(1.35);
  expect(fitModel(sectors((v) => 0.6 * v, 4).slice(0, 5))).toBeNull();
  expect(fitModel([...sectors((v) => 0.6 * v, 4).slice(0, 5), null, null])).toBeNull();
});

test('the best path follows the scores round and closes', () => {
  const [rows, reach] = [80, 6];
  const columns = 2 * reach + 1;
  const at = (row: number) => Math.round(4 * Math.sin((2 * Math.PI * row) / rows)) + 0;
  const scores = new Float32Array(rows * columns);
  for (let row = 0; row < rows; row++) scores[row * columns + at(row) + reach] = 1;
  const path = bestPath(scores, rows, reach, { bent: 0.02, away: 0 });
  expect(Array.from(path)).toEqual(Array.from({ length: rows }, (_, row) => at(row)));
  expect(Math.abs(path[0] - path[rows - 1])).toBeLessThanOrEqual(3);
});
