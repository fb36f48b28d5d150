import type { FaultKind } from '../faults/kinds.ts';
import { createRaster } from '../raster/raster.ts';
import { adviseCover, surroundingsOf } from './advice.ts';
import { minutesFor, minutesForAll } from './minutes.ts';
import { crossingFirst, inOrderOfWork } from './order.ts';
import { minutesOfArc, usualDistance, visibilityOf } from '../frame/visibility.ts';

describe('visibility', () => {
  test('minutes of arc: worked examples', () => {
    // tan 1′ × 1 m = 0.2909 mm; a letter of the 6/6 line is 5′ high at 6 m: 8.73 mm (Snellen chart, ISO 8596).
    expect(minutesOfArc(0.2909, 1000)).toBeCloseTo(1, 3);
    expect(minutesOfArc(8.727, 6000)).toBeCloseTo(5, 2);
    expect(minutesOfArc(17.453, 1000)).toBeCloseTo(60, 0);
  });

  test('the usual distance grows with the print but is never nearer than people read', () => {
    expect(usualDistance(100)).toBe(300);
    expect(usualDistance(1000)).toBe(1500);
  });

  test('nobody sees what is too small or too faint; a little larger or nearer somebody does', () => {
    const viewing = { longSideMm: 300, distanceMm: 450 };
    const speck = (acrossPx: number, difference: number, distanceMm = 450) =>
      visibilityOf({ acrossPx, alongPx: acrossPx, difference }, 3000, { ...viewing, distanceMm }).times;
    expect(speck(10, 1.5)).toBeLessThan(1);
    expect(speck(10, 5)).toBeGreaterThan(1);
    // 0.05 mm at 450 mm is 0.38′: a seventh of the light of a resolved speck.
    expect(speck(0.5, 10)).toBeLessThan(1);
    expect(speck(0.5, 60)).toBeGreaterThan(1);
    expect(speck(1, 10, 900)).toBeLessThan(speck(1, 10, 300));
    // A hair is thin but long: its length counts.
    const hair = visibilityOf({ acrossPx: 0.5, alongPx: 200, difference: 10 }, 3000, viewing).times;
    expect(hair).toBeGreaterThan(speck(0.5, 10));
  });
});

describe('minutes', () => {
  test('begin with usual figures and follow the editor’s own median from three on', () => {
    expect(minutesFor('tear', []).from).toBe(0);
    const log = [4, 20, 5, 6].map((minutes) => ({ kind: 'tear', minutes }));
    expect(minutesFor('tear', log.slice(0, 2))).toEqual(minutesFor('tear', []));
    expect(minutesFor('tear', log)).toEqual({ minutes: 5.5, low: 4.75, high: 9.5, from: 4 });
    expect(minutesFor('crease', log).from).toBe(0);
  });

  test('add up; the spread of many is narrower than the sum of spreads', () => {
    const one = minutesForAll(['object'], []);
    const many = minutesForAll(new Array(16).fill('object'), []);
    expect(many.minutes).toBeCloseTo(16 * one.minutes);
    expect(many.high - many.minutes).toBeCloseTo(4 * (one.high - one.minutes));
    expect(minutesForAll([], []).minutes).toBe(0);
  });
});

describe('order of work', () => {
  const planned = (id: string, kind: FaultKind, x: number, y: number, across: number) => ({
    id,
    kind,
    across,
    box: { x, y, width: across, height: across },
  });

  test('damage before things, small before large, neighbours one after the other', () => {
    const list = [
      planned('sign', 'object', 100, 100, 300),
      planned('far speck', 'speck', 4000, 100, 5),
      planned('speck', 'speck', 60, 60, 6),
      planned('crease', 'crease', 0, 500, 20),
      planned('can', 'object', 600, 900, 40),
      planned('next speck', 'speck', 90, 80, 5),
      planned('border', 'gap', 0, 0, 50),
      planned('corner', 'tear', 3000, 2000, 400),
    ];
    expect(inOrderOfWork(list).map((p) => p.id)).toEqual([
      'corner',
      'speck',
      'next speck',
      'far speck',
      'crease',
      'can',
      'sign',
      'border',
    ]);
  });

  test('walks to and fro over the picture', () => {
    const list = [
      planned('b', 'speck', 100, 600, 4),
      planned('c', 'speck', 2000, 600, 4),
      planned('a', 'speck', 100, 10, 4),
    ];
    expect(inOrderOfWork(list).map((p) => p.id)).toEqual(['a', 'c', 'b']);
  });
});

describe('advice', () => {
  const even = createRaster(300, 300, 1, 8);
  even.data.fill(140);
  const spot = (x: number, y: number, size: number) => [
    { op: 'add' as const, kind: 'brush' as const, points: [[x, y]] as Array<[number, number]>, size },
  ];

  test('even ground: soft edge, and the cover is 1.2 to 1.5 times the spot (common practice)', () => {
    const s = surroundingsOf(even, spot(150, 150, 40), 40);
    expect(s.edge).toBe(Infinity);
    const a = adviseCover('speck', s);
    expect((40 + 2 * (a.margin + a.feather)) / 40).toBeGreaterThanOrEqual(1.2);
    expect((40 + 2 * (a.margin + a.feather)) / 40).toBeLessThanOrEqual(1.5);
    expect(a.reason).toMatch(/even ground/);
    expect(a.strength).toBe(1);
  });

  test('beside a strong edge the soft edge narrows, across one the cover is crisp; the distance is said', () => {
    const edged = { ...even, data: even.data.slice() };
    for (let y = 0; y < 300; y++) edged.data.fill(20, y * 300 + 180, (y + 1) * 300);
    const near = surroundingsOf(edged, spot(150, 150, 40), 40);
    expect(Math.abs(near.edge - 9)).toBeLessThan(3);
    expect(near.crossed).toBe(false);
    expect(adviseCover('speck', near).feather).toBeLessThanOrEqual(2);
    expect(adviseCover('speck', near).reason).toMatch(/strong edge \d+ px away/);
    const across = surroundingsOf(edged, spot(180, 150, 40), 40);
    expect(across.crossed).toBe(true);
    expect(adviseCover('speck', across).feather).toBeLessThanOrEqual(1);
  });

  test('thin: hard edge; large: portions; always at full strength, or a ghost is left (all common practice)', () => {
    const base = { edge: Infinity, crossed: false, uneven: 2, texture: 1 };
    expect(adviseCover('strand', { ...base, across: 5 })).toMatchObject({ margin: 1, feather: 0, strength: 1 });
    expect(adviseCover('object', { ...base, across: 700 }).portions).toBe(3);
    expect(adviseCover('object', { ...base, across: 100 }).portions).toBe(1);
    expect(adviseCover('crease', { ...base, across: 9 }).strength).toBe(1);
    expect(adviseCover('stain', { ...base, across: 90 })).toMatchObject({ method: 'lift', strength: 1 });
  });
});

test('what crosses others comes first, and the order stays otherwise', () => {
  const spot = (name: string, x: number) => ({
    name,
    kind: 'speck' as const,
    box: { x, y: 100, width: 20, height: 20 },
    shapes: [],
  });
  const wire = (name: string, y: number) => ({
    name,
    kind: 'strand' as const,
    box: { x: 0, y, width: 300, height: 4 },
    shapes: [
      {
        op: 'add' as const,
        kind: 'strand' as const,
        points: [0, 60, 110, 300].map((x): [number, number] => [x, y]),
        size: 4,
      },
    ],
  });
  const list = [spot('a', 100), wire('far', 400), spot('b', 500), wire('through', 112)];
  expect(crossingFirst(list).map((p) => p.name)).toEqual(['through', 'a', 'far', 'b']);
});
