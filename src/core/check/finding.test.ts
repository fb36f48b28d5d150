import { findingsOf } from './check.ts';
import { findingOf, SEEN, severityOf, type Sign } from './finding.ts';
import { verdictOf } from './words.ts';

const seam = (set: Partial<Sign> = {}): Sign => ({
  kind: 'seam',
  box: { x: 10, y: 10, width: 40, height: 8 },
  figure: 2.3456,
  unit: 'times the jumps beside it',
  difference: 8,
  across: 3,
  along: 60,
  remedy: 'other-try',
  ...set,
});
const near = { longSideMm: 300, distanceMm: 450 };

test('what can just be noticed has a severity of a half', () => {
  // 2.3 CIEDE2000 over more than a minute of arc: common practice for just noticed.
  expect(severityOf(seam({ difference: 2.3, across: 20 }), 1500, near)).toBeCloseTo(SEEN, 3);
  expect(severityOf(seam({ difference: 23, across: 20 }), 1500, near)).toBeCloseTo(10 / 11, 3);
});

test('from farther away, and delivered smaller, less of it is seen', () => {
  const here = severityOf(seam(), 4000, near);
  expect(severityOf(seam(), 4000, { ...near, distanceMm: 3000 })).toBeLessThan(here);
  expect(severityOf(seam(), 4000, { longSideMm: 60, distanceMm: 450 })).toBeLessThan(here);
});

test('signs of one kind at one place are one finding, the worse of them; what nobody sees is none', () => {
  const worse = seam({ difference: 20 });
  const elsewhere = seam({ box: { x: 300, y: 10, width: 40, height: 8 } });
  const other = seam({ kind: 'tone-step' });
  const told = findingsOf([seam(), worse, elsewhere, other, seam({ kind: 'smear', difference: 0.1 })], 1500, near);
  expect(told.map((f) => [f.kind, f.box.x])).toEqual([
    ['seam', 10],
    ['seam', 300],
    ['tone-step', 10],
  ]);
  expect(told[0].severity).toBe(findingOf(worse, 1500, near).severity);
});

test('a verdict is the worst of what would be seen, in two words', () => {
  const told = findingsOf([seam(), seam({ kind: 'tone-step', difference: 30 })], 1500, near);
  expect(verdictOf(told)).toBe('tone off');
  expect(verdictOf(findingsOf([seam({ difference: 1, across: 1 })], 4000, near))).toBeNull();
});
