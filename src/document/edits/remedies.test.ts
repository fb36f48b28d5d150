import { SOFT_EDGE, type Finding, type Remedy } from '../../core/check/finding.ts';
import { DEFAULT_FILL } from '../../core/repair/fill/settings.ts';
import type { FillSpec } from '../../core/repair/spec.ts';
import { remedied } from './remedies.ts';

const spec: FillSpec = {
  method: 'fill',
  ...DEFAULT_FILL,
  style: 'first',
  cover: [{ op: 'add', kind: 'brush', points: [[50, 50]], size: 40 }],
  margin: 2,
  feather: 1,
  donorArea: [],
  barred: [],
  avoid: [],
  seed: 7,
};
const finding = (remedy: Remedy, more: Partial<Finding> = {}): Finding => ({
  kind: 'leftover',
  box: { x: 10, y: 10, width: 60, height: 30 },
  figure: 1,
  unit: 'px',
  severity: 0.8,
  remedy,
  ...more,
});

test('what is left over widens the margin by the size of it, within bounds', () => {
  expect(remedied(spec, finding('widen-margin'), [spec], 9)).toEqual({
    spec: { ...spec, margin: 12, seed: 9 },
    remedy: 'widen-margin',
  });
  const small = finding('widen-margin', { box: { x: 0, y: 0, width: 3, height: 90 } });
  expect(remedied(spec, small, [spec], 9)!.spec.margin).toBe(5);
});

test('a soft edge that runs on widens the margin by as much, whatever the size of the box around it', () => {
  const thin: FillSpec = { ...spec, style: 'faithful' };
  const ghost = finding('widen-margin', { box: { x: 0, y: 0, width: 900, height: 400 }, figure: 1.6, unit: SOFT_EDGE });
  expect(remedied(thin, ghost, [thin], 9)!.spec.margin).toBe(5);
  const rim = finding('widen-margin', { box: { x: 0, y: 0, width: 900, height: 400 } });
  expect(remedied(thin, rim, [thin], 9)!.spec.margin).toBe(8);
});

test('a repeat bars the place it was taken from, beside what is barred', () => {
  const partner = { x: 100, y: 20, width: 12, height: 14 };
  expect(remedied(spec, finding('other-donor', { partner }), [spec], 9)!.spec.barred).toEqual([
    { op: 'add', kind: 'box', ...partner },
  ]);
  expect(remedied(spec, finding('other-donor'), [spec], 9)).toBeNull();
});

test('other styles come one after another, none of them twice', () => {
  const tried: FillSpec[] = [spec];
  const styles = [];
  for (;;) {
    const next = remedied(spec, finding('other-try'), tried, 9);
    if (!next) break;
    styles.push(next.spec.style);
    tried.push(next.spec);
  }
  expect(styles).toEqual(['second', 'third', 'lines', 'near']);
  const thin: FillSpec = { ...spec, style: 'faithful' };
  expect(remedied(thin, finding('copy-along'), [thin], 9)!.spec.style).toBe('straight');
  const both = [thin, { ...thin, style: 'straight' as const }];
  expect(remedied(thin, finding('copy-along'), both, 9)!.spec.style).toBe('textured');
  expect(remedied(thin, finding('copy-along'), [...both, { ...thin, style: 'textured' }], 9)).toBeNull();
});

test('nothing is tried against a question, by hand, or over what was drawn', () => {
  expect(remedied(spec, finding('cover-shadow'), [spec], 9)).toBeNull();
  const edges = [
    {
      op: 'add' as const,
      kind: 'strand' as const,
      points: [
        [0, 0],
        [9, 9],
      ] as Array<[number, number]>,
      size: 1,
    },
  ];
  expect(remedied({ ...spec, edges }, finding('other-try'), [spec], 9)).toBeNull();
  expect(remedied({ method: 'lift', cover: spec.cover, amount: 1, avoid: [] }, finding('other-try'), [], 9)).toBeNull();
});
