import { secondsLeft } from './time-left.ts';

test('the time that is left is as long as what was done took, in proportion', () => {
  const first = { at: 1000, done: 0.2 };
  expect(secondsLeft(first, 0.6, 5000)).toBeCloseTo(4, 9);
  expect(secondsLeft(first, 0.9, 8000)).toBeCloseTo(1, 9);
});

test('nothing is said before there is something to go by, or once it is done', () => {
  expect(secondsLeft(undefined, 0.5, 5000)).toBeNull();
  expect(secondsLeft({ at: 0, done: 0 }, 0.5, 900)).toBeNull();
  expect(secondsLeft({ at: 0, done: 0.5 }, 0.51, 9000)).toBeNull();
  expect(secondsLeft({ at: 0, done: 0 }, 1, 9000)).toBeNull();
});
