import { meanOver, runsOf } from './runs.ts';

const holds = (text: string) => (i: number) => text[i] === 'x';

test('runs are found over small gaps, and over the end of a closed line', () => {
  const text = 'xx....xxx.xxxx....xx';
  const runs = runsOf(text.length, holds(text), 4);
  expect(runs.map(({ from, length }) => [from % text.length, length])).toEqual([
    [6, 8],
    [18, 4],
  ]);
});

test('a line that holds all around is one run, one too short is none', () => {
  expect(runsOf(6, () => true, 4)).toEqual([{ from: 0, to: 5, length: 6 }]);
  expect(runsOf(6, () => true, 7)).toEqual([]);
  expect(runsOf(9, holds('.xxx.....'), 4)).toEqual([]);
});

test('means leave out what is not known', () => {
  const values = [1, NaN, 3, 100];
  expect(meanOver({ from: 0, to: 2, length: 3 }, 4, (i) => values[i])).toBe(2);
  // Over the end: samples 3 and 0.
  expect(meanOver({ from: 3, to: 4, length: 2 }, 4, (i) => values[i])).toBe(50.5);
});
