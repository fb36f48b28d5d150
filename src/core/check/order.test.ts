import type { Finding, FindingKind } from './finding.ts';
import { givenAway, inOrderOfVerdict } from './order.ts';

const finding = (kind: FindingKind, severity: number): Finding => ({
  kind,
  box: { x: 0, y: 0, width: 10, height: 10 },
  figure: 1,
  unit: 'px',
  severity,
  remedy: 'other-try',
});

test('nothing found gives nothing away, more and worse findings more, repeats a fifth', () => {
  expect(givenAway([])).toBe(0);
  expect(givenAway([finding('seam', 0.8)])).toBeCloseTo(0.8);
  expect(givenAway([finding('repeat', 0.8)])).toBeCloseTo(0.16);
  expect(givenAway([finding('seam', 0.8), finding('smear', 0.5)])).toBeGreaterThan(givenAway([finding('seam', 0.8)]));
});

test('tries stand as they were made unless a later one gives plainly less away; what is not measured comes last', () => {
  const bad = [finding('broken-line', 0.9)];
  expect(inOrderOfVerdict([[], [], []])).toEqual([0, 1, 2]);
  expect(inOrderOfVerdict([[finding('seam', 0.35)], [], []])).toEqual([0, 1, 2]);
  expect(inOrderOfVerdict([bad, [], bad])).toEqual([1, 0, 2]);
  expect(inOrderOfVerdict([undefined, bad, []])).toEqual([2, 1, 0]);
});
