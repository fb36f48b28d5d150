import {
  coverageOf,
  dabProfile,
  dabsOf,
  layCoverage,
  layStroke,
  splitStroke,
  stampDab,
  strokeCoverage,
  visitStroke,
  type Stroke,
} from './strokes.ts';

const stroke = (set: Partial<Stroke> = {}): Stroke => ({
  points: [
    [20, 30, 1],
    [61.3, 44.7, 1],
    [80, 20, 1],
  ],
  size: 18,
  hardness: 0.6,
  flow: 0.35,
  opacity: 1,
  spacing: 0.2,
  pressure: 'none',
  ...set,
});
const frame = { x: 0, y: 0, width: 110, height: 70 };

describe('dabs', () => {
  test('lie at equal distances along the path, the first at its start', () => {
    const dabs = dabsOf(stroke());
    expect([dabs[0].x, dabs[0].y]).toEqual([20, 30]);
    // Along straight runs neighbours are one step apart; only across the corner they are nearer.
    const gaps = dabs.slice(1).map((d, i) => Math.hypot(d.x - dabs[i].x, d.y - dabs[i].y));
    expect(gaps.filter((g) => Math.abs(g - 3.6) < 1e-9).length).toBe(gaps.length - 1);
    const length = Math.hypot(41.3, 14.7) + Math.hypot(18.7, 24.7);
    expect(dabs.length).toBe(Math.floor(length / 3.6) + 1);
  });

  test('n dabs in one place cover 1 − (1 − flow)ⁿ of the core', () => {
    for (const n of [1, 2, 5]) {
      const plane = new Float32Array(110 * 70);
      for (let k = 0; k < n; k++) stampDab(plane, frame, { x: 40.5, y: 30.5, radius: 9, hardness: 0.6, flow: 0.35 });
      expect(plane[30 * 110 + 40]).toBeCloseTo(1 - (1 - 0.35) ** n, 6);
    }
  });

  test('the rim falls from 1 to 0 and is at least one pixel wide', () => {
    expect(dabProfile(5, 10, 0.6)).toBe(1);
    expect(dabProfile(10.5, 10, 0.6)).toBe(0);
    expect(dabProfile(10, 10, 1)).toBeCloseTo(0.5, 6);
    let last = 1;
    for (let d = 0; d < 11; d += 0.1) {
      const v = dabProfile(d, 10, 0.2);
      expect(v).toBeLessThanOrEqual(last);
      last = v;
    }
  });

  test('pressure drives size or flow; a mouse has all of it', () => {
    const points: Stroke['points'] = [
      [10, 10, 0.5],
      [30, 10, 0.5],
    ];
    expect(dabsOf(stroke({ points, pressure: 'size' }))[0].radius).toBeCloseTo(4.5, 9);
    expect(dabsOf(stroke({ points, pressure: 'flow' }))[0].flow).toBeCloseTo(0.175, 9);
    expect(dabsOf(stroke({ points, pressure: 'none' }))[0]).toMatchObject({ radius: 9, flow: 0.35 });
  });
});

describe('strokes', () => {
  test('opacity caps a stroke, a second one builds up to more', () => {
    const capped = stroke({ opacity: 0.5, flow: 1 });
    const once = strokeCoverage(capped, frame);
    expect(Math.max(...once)).toBeCloseTo(0.5, 6);
    expect(Math.max(...coverageOf([capped, capped], frame))).toBeCloseTo(0.75, 6);
  });

  test('a stroke split at any of its points covers the same as in one', () => {
    const whole = strokeCoverage(stroke(), frame);
    const parts = splitStroke(stroke(), 1);
    const both = coverageOf(parts, frame);
    let most = 0;
    for (let i = 0; i < whole.length; i++) most = Math.max(most, Math.abs(whole[i] - both[i]));
    expect(most).toBeLessThan(1e-6);
    expect(dabsOf(parts[0]).length + dabsOf(parts[1]).length).toBe(dabsOf(stroke()).length);
  });

  test('nothing is covered beyond half the size and the soft pixel of the rim', () => {
    const one = stroke({ points: [[50.5, 35.5, 1]], flow: 1 });
    const plane = strokeCoverage(one, frame);
    plane.forEach((v, i) => {
      const d = Math.hypot((i % 110) + 0.5 - 50.5, Math.floor(i / 110) + 0.5 - 35.5);
      if (d >= 9.5) expect(v).toBe(0);
      if (d <= 5) expect(v).toBe(1);
    });
  });

  test('laid where it goes, a stroke gives the same bits as laid over everything, also where it leaves the frame', () => {
    for (const points of [
      stroke().points,
      [
        [-4, 3, 1],
        [115, 66, 0.4],
      ] as Stroke['points'],
      [[500, 500, 1]] as Stroke['points'],
    ])
      for (const opacity of [1, 0.3]) {
        const one = stroke({ points, opacity, pressure: 'size' });
        const under = strokeCoverage(stroke({ size: 40 }), frame);
        const whole = under.slice();
        layCoverage(whole, strokeCoverage(one, frame));
        layStroke(under, frame, one);
        expect(Buffer.from(under.buffer).equals(Buffer.from(whole.buffer))).toBe(true);
        const seen = new Float32Array(under.length);
        visitStroke(one, frame, (i, v) => (seen[i] = v));
        expect([...seen]).toEqual([...strokeCoverage(one, frame)]);
      }
  });
});
