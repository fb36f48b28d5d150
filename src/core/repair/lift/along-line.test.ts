import { modelBeside } from './along-line.ts';
import type { LinedStain } from './line.ts';
import { COLUMNS, REACH } from './unwrapped.ts';

/** A band of 9 columns around a line of which the middle, up to one of its ends, cannot be read any more. */
function stain(readable: readonly number[]): LinedStain {
  const models: LinedStain['models'] = Array.from({ length: COLUMNS }, () => null);
  for (const k of readable) models[REACH + k] = { gain: [0.8], offset: [0] };
  return { models, from: REACH - 4, to: REACH + 4 } as LinedStain;
}
const at = (s: LinedStain, beside: number) => {
  const [gain, offset] = [new Float32Array(1), new Float32Array(1)];
  return modelBeside(s, beside, gain, offset) ? gain[0] : null;
};

test('what is lost up to the end of a band is left as it is, and nothing fails there', () => {
  const one = stain([-4, -3, -2]);
  for (let beside = -5; beside <= 5; beside += 0.25) expect(() => at(one, beside)).not.toThrow();
  expect(at(one, -3)).toBeCloseTo(0.8);
  expect(at(one, 4)).toBeNull();
  expect(at(one, 4.5)).toBeNull();
  const none = stain([]);
  for (let beside = -5; beside <= 5; beside += 0.25) expect(at(none, beside) ?? 1).toBe(1);
});
