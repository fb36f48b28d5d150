import type { Shape } from '../mask/shapes.ts';
import { atDelivery, printMm } from '../frame/delivery.ts';
import { thumbnailFrame, measureFault, proposeCover } from './cover.ts';
import { withHabit } from './habits.ts';
import { mayRepair } from './policy.ts';

describe('what the editor changes of a proposal', () => {
  const advice = {
    method: 'fill' as const,
    margin: 4,
    feather: 2,
    strength: 1,
    reach: 90,
    portions: 1,
    reason: 'Even ground.',
  };

  test('is added to the next one of the kind, and said', () => {
    const changed = withHabit(advice, { margin: 3, feather: -1, strength: 0.8 }, 'stain');
    expect(changed).toMatchObject({ margin: 7, feather: 1, strength: 0.8, reach: 90, portions: 1 });
    expect(changed.reason).toBe(
      'Even ground. As last time in this job: margin 3 px more, feather 1 px less, strength 80 % (usual 100 %).',
    );
    // The proposal itself stays.
    expect(advice).toMatchObject({ margin: 4, feather: 2, strength: 1, reason: 'Even ground.' });
  });

  test('but never a weaker strength where a ghost would be left', () => {
    for (const kind of ['object', 'strand', 'mesh', 'speck', 'hair', 'scratch', 'crease', 'tear', 'lettering'] as const)
      expect(withHabit(advice, { margin: 0, feather: 0, strength: 0.7 }, kind)).toBe(advice);
    for (const kind of ['stain', 'shadow', 'glare'] as const)
      expect(withHabit(advice, { margin: 0, feather: 0, strength: 0.7 }, kind).strength).toBe(0.7);
  });

  test('never below nothing; what was never set stays as proposed', () => {
    expect(withHabit(advice, { margin: -9, feather: 0, strength: null }, 'stain')).toMatchObject({
      margin: 0,
      feather: 2,
      strength: 1,
    });
    expect(withHabit(advice, undefined, 'stain')).toBe(advice);
    // A habit that changes nothing is not talked about.
    expect(withHabit(advice, { margin: 0, feather: 0, strength: 1 }, 'stain')).toBe(advice);
    expect(withHabit({ ...advice, margin: 0 }, { margin: -2, feather: 0, strength: null }, 'stain').reason).toBe(
      'Even ground.',
    );
  });
});

describe('measuring a fault', () => {
  const box = (x: number, y: number, width: number, height: number): Shape => ({
    op: 'add',
    kind: 'box',
    x,
    y,
    width,
    height,
  });

  test('bounds, covered pixels and width at the widest place', () => {
    expect(measureFault([box(10, 20, 30, 9)], { width: 200, height: 100 })).toEqual({
      bounds: { x: 10, y: 20, width: 30, height: 9 },
      area: 270,
      width: 9,
      anchor: [24.5, 24.5],
    });
    // A thin tail does not make it wider, nor does what is taken away.
    const tail = [box(10, 20, 30, 9), box(40, 24, 50, 1), { ...box(10, 20, 2, 9), op: 'take' as const }];
    const { width, area } = measureFault(tail, { width: 200, height: 100 });
    expect([width, area]).toEqual([9, 270 + 50 - 18]);
  });

  test('what lies outside does not count', () => {
    expect(measureFault([box(190, 95, 30, 30)], { width: 200, height: 100 })).toMatchObject({
      bounds: { x: 190, y: 95, width: 10, height: 5 },
      area: 50,
    });
    expect(measureFault([box(500, 5, 9, 9)], { width: 200, height: 100 })).toMatchObject({ area: 0, width: 0 });
  });

  test('a close look shows all of a thing, but of a sagging wire a piece that holds some of it', () => {
    const thing = measureFault([box(60, 20, 100, 60)], { width: 400, height: 300 });
    expect(thumbnailFrame(thing)).toEqual({ middle: [110, 50], side: 130 });
    const small = measureFault([box(60, 20, 3, 3)], { width: 400, height: 300 });
    expect(thumbnailFrame(small)).toEqual({ middle: [61.5, 21.5], side: 72 });
    const sagging = Array.from({ length: 41 }, (_, i): [number, number] => [10 * i, 40 + 0.3 * i * (40 - i)]);
    const wire = measureFault([{ op: 'add', kind: 'strand', points: sagging, size: 5 }], { width: 400, height: 300 });
    const { middle, side } = thumbnailFrame(wire);
    expect(side).toBeGreaterThanOrEqual(72);
    expect(side).toBeLessThan(160);
    // On the wire: nearer to it than half its width; the middle of its box is far from it.
    const far = (x: number, y: number) => Math.min(...sagging.map(([u, v]) => Math.hypot(u - x, v - y)));
    expect(far(...middle)).toBeLessThan(6);
    expect(far(wire.bounds.x + wire.bounds.width / 2, wire.bounds.y + wire.bounds.height / 2)).toBeGreaterThan(30);
  });

  test('covers grow with the fault, within bounds; thin ones keep a hard edge (common practice)', () => {
    const widths = [0, 1, 3, 8, 20, 60, 150, 400];
    const covers = widths.map((width) => proposeCover({ width }));
    for (let n = 1; n < covers.length; n++) {
      if (covers[n].feather === 0 || covers[n - 1].feather > 0)
        expect(covers[n].margin).toBeGreaterThanOrEqual(covers[n - 1].margin);
      expect(covers[n].feather).toBeGreaterThanOrEqual(covers[n - 1].feather);
    }
    expect(covers[0]).toMatchObject({ margin: 1, feather: 0 });
    expect(covers.at(-1)).toMatchObject({ margin: 12, feather: 6 });
    expect(covers.every((c, n) => c.reason.startsWith(`${Math.max(1, widths[n])} px across`))).toBe(true);
  });
});

describe('sizes at delivery', () => {
  test('worked examples', () => {
    // 3000 px printed 300 mm long: ten to the millimetre.
    expect(atDelivery(25, 3000, { longSideMm: 300 })).toBeCloseTo(2.5, 9);
    // 300 px an inch: 300 px are an inch, 25.4 mm.
    expect(printMm(300, 300)).toBeCloseTo(25.4, 9);
    expect(printMm(3508, 300)).toBeCloseTo(297, 0);
  });
});

describe('what may be repaired', () => {
  test('a documentary job leaves the scene as it was; dust and damage may go everywhere', () => {
    for (const kind of ['object', 'lettering', 'strand', 'mesh', 'shadow', 'glare'] as const) {
      expect(mayRepair('documentary', kind)).toBe(false);
      expect(mayRepair('restoration', kind)).toBe(true);
    }
    for (const policy of ['documentary', 'restoration', 'creative'])
      for (const kind of ['speck', 'hair', 'scratch', 'crease', 'tear', 'stain', 'gap'] as const)
        expect(mayRepair(policy, kind)).toBe(true);
  });
});
