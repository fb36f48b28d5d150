import type { Finding, FindingKind } from './finding.ts';
import { bestOf, givenAway, inOrderOfVerdict, showing } from './order.ts';

const finding = (kind: FindingKind, severity: number): Finding => ({
  kind,
  box: { x: 0, y: 0, width: 10, height: 10 },
  figure: 1,
  unit: 'px',
  severity,
  remedy: 'other-try',
});
const seam = (severity: number) => [finding('seam', severity)];
const repeat = (severity: number) => [finding('repeat', severity)];

test('nothing found gives nothing away, more and worse findings more, repeats a fifth', () => {
  expect(givenAway([])).toBe(0);
  expect(givenAway(seam(0.8))).toBeCloseTo(0.8);
  expect(givenAway(repeat(0.8))).toBeCloseTo(0.16);
  expect(givenAway([...seam(0.8), finding('smear', 0.5)])).toBeGreaterThan(givenAway(seam(0.8)));
});

test('the first stays unless it shows and another does not, or gives plainly less away', () => {
  expect(bestOf([seam(0.6), seam(0.55), seam(0.45)])).toBe(2);
  expect(bestOf([repeat(0.55), [], seam(0.3)])).toBe(1);
  expect(bestOf([seam(1), [...seam(0.5), ...seam(0.5)], seam(0.52)])).toBe(2);
  expect(bestOf([[], seam(0.9), []])).toBe(0);
  expect(bestOf([seam(0.45), [], []])).toBe(0);
  expect(bestOf([seam(0.8), [], seam(0.8)])).toBe(1);
  expect(bestOf([seam(0.8), seam(0.7), seam(0.6)])).toBe(0);
  expect(bestOf([seam(0.8), seam(0.3), []])).toBe(2);
});

test('one that repeats itself more is not better, and what is not measured neither', () => {
  expect(bestOf([seam(0.9), repeat(0.6), []])).toBe(2);
  expect(bestOf([seam(0.9), repeat(0.6)])).toBe(0);
  expect(bestOf([[...seam(0.9), ...repeat(0.55)], repeat(0.6)])).toBe(1);
  expect(bestOf([undefined, [], []])).toBe(0);
  expect(bestOf([seam(0.9), undefined, undefined])).toBe(0);
});

test('the others follow by what they give away', () => {
  expect(inOrderOfVerdict([[], seam(0.9), repeat(0.5)])).toEqual([0, 2, 1]);
  expect(inOrderOfVerdict([seam(0.9), [], seam(0.4)])).toEqual([1, 2, 0]);
  expect(inOrderOfVerdict([undefined, seam(0.4), []])).toEqual([0, 2, 1]);
});

test('what shows is the worst that would be seen, repeats after all else', () => {
  expect(showing([...seam(0.3), ...repeat(0.4)])).toBeUndefined();
  expect(showing([...seam(0.6), ...repeat(0.95)])?.kind).toBe('seam');
  expect(showing(repeat(0.6))?.kind).toBe('repeat');
});
