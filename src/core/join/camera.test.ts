import { multiplied, nearestTurn, NO_TURN, rayOf, seenAt, transposed, turnOf, type Camera } from './camera.ts';

const camera = (bend: number, turn: readonly number[] = NO_TURN): Camera => ({
  width: 800,
  height: 600,
  focal: 900,
  bend,
  turn,
});

test('what a pixel looks at is seen at that pixel, bent inwards and outwards', () => {
  const at = [0, 0];
  for (const bend of [-0.06, 0, 0.05])
    for (const [x, y] of [
      [0, 0],
      [399.5, 299.5],
      [799, 13],
      [120, 580],
    ]) {
      const own = camera(bend, turnOf([0.1, -0.3, 0.05]));
      expect(seenAt(own, rayOf(own, x, y), at)).toBe(true);
      expect(at[0]).toBeCloseTo(x, 6);
      expect(at[1]).toBeCloseTo(y, 6);
    }
});

test('without bending a camera is a pinhole: x = f X / Z from its middle', () => {
  const at = [0, 0];
  seenAt(camera(0), [0.2, -0.1, 2], at);
  expect(at[0]).toBeCloseTo(399.5 + 90, 9);
  expect(at[1]).toBeCloseTo(299.5 - 45, 9);
});

test('nothing is seen behind a camera, nor where its bending folds over', () => {
  const at = [0, 0];
  expect(seenAt(camera(0), [0, 0, -1], at)).toBe(false);
  expect(seenAt(camera(-0.06), [4, 0, 1], at)).toBe(false);
});

test('a turn by a quarter takes right to down, and the nearest turn to a scaled one is itself', () => {
  const quarter = turnOf([0, 0, Math.PI / 2]);
  expect(quarter[0]).toBeCloseTo(0, 12);
  expect(quarter[3]).toBeCloseTo(1, 12);
  const turn = turnOf([0.4, -0.2, 0.7]);
  nearestTurn(turn.map((v) => 1.7 * v)).forEach((v, k) => expect(v).toBeCloseTo(turn[k], 9));
  multiplied(turn, transposed(turn)).forEach((v, k) => expect(v).toBeCloseTo(NO_TURN[k], 12));
});
