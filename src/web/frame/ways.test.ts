import type { Fault } from '../../contract/document.ts';
import { proportionOf } from '../../core/frame/format.ts';
import { turn } from '../../core/chain/turn.ts';
import { contains } from '../../core/raster/raster.ts';
import {
  amountsOfWay,
  cropWay,
  extendWay,
  firstToClean,
  mixedWay,
  ontoOf,
  standingWay,
  stretchWay,
  type Asked,
} from './ways.ts';

const SOURCE = { width: 2400, height: 3600 };
const asked = (set: Partial<Asked> = {}): Asked => ({
  proportion: proportionOf('1:1'),
  placement: { across: null, down: null },
  subject: null,
  degrees: 0,
  ...set,
});
const subject = {
  box: { x: 400, y: 300, width: 900, height: 3000 },
  focus: [850, 700] as [number, number],
  looks: 0 as const,
};

test('the picture’s own proportion sets nothing, neither way', () => {
  for (const way of [cropWay, extendWay])
    expect(way(SOURCE, asked({ proportion: null })).set).toEqual({ canvas: null, turn: null });
});

test('a picture that is framed already stands on its canvas, by the way that led to it', () => {
  const cut = standingWay(SOURCE, { x: 0, y: 600, width: 2400, height: 2400 }, null, null);
  expect(cut.way).toBe('crop');
  expect(cut.framing).toMatchObject({ sides: { left: 0, top: -600, right: 0, bottom: -600 }, added: 0 });
  expect(cut.framing.lost).toBeCloseTo(1 / 3);
  const wide = { x: -700, y: 0, width: 3600, height: 3600 };
  const grown = standingWay(SOURCE, wide, subject, null);
  expect(grown).toMatchObject({ way: 'extend', seen: wide, set: { canvas: wide, turn: null } });
  expect(grown.framing).toMatchObject({ sides: { left: 700, right: 500 }, lost: 0, cut: 0 });
  expect(grown.framing.added).toBeCloseTo(1 / 3);
  expect(standingWay(SOURCE, wide, subject, 'all').way).toBe('stretch');
});

test('levelled by a crop it has no gap in its corners; extended, the canvas holds all that is seen', () => {
  const crop = cropWay(SOURCE, asked({ degrees: 3 }));
  expect(crop.seen.width).toBe(crop.seen.height);
  expect(crop.set.canvas).toBeNull();
  expect(crop.framing.lost).toBeGreaterThan(0.35);
  const extend = extendWay(SOURCE, asked({ degrees: 3 }));
  expect(extend.set.turn!.crop).toEqual(extend.seen);
  expect(contains(extend.set.canvas!, turn(extend.set.turn!).needs(extend.seen))).toBe(true);
  expect(contains(extend.set.canvas!, { x: 0, y: 0, ...SOURCE })).toBe(true);
});

test('open faults near what is added are to be cleaned first', () => {
  const fault = (id: string, x: number, state: Fault['state'] = 'open') =>
    ({
      id,
      kind: 'scuff',
      state,
      shapes: [{ op: 'add', kind: 'brush', points: [[x, 1800]], size: 20 }],
    }) as unknown as Fault;
  const faults = [fault('edge', 100), fault('middle', 1200), fault('done', 90, 'treated')];
  const way = extendWay(SOURCE, asked());
  expect(firstToClean(faults, SOURCE, way).map((f) => f.id)).toEqual(['edge']);
  expect(firstToClean(faults, SOURCE, cropWay(SOURCE, asked()))).toEqual([]);
});

test('how far the background is drawn out on each side is told; without a subject nothing is', () => {
  const source = { width: 3000, height: 2400 };
  const narrow = {
    ...subject,
    box: { x: 1300, y: 300, width: 400, height: 2000 },
    focus: [1500, 500] as [number, number],
  };
  const a = asked({ proportion: proportionOf('4:3'), subject: narrow });
  expect(amountsOfWay(stretchWay(source, a)!, source, narrow)).toEqual([
    { side: 'left', times: 1400 / 1300 },
    { side: 'right', times: 1400 / 1300 },
  ]);
  expect(stretchWay(source, { ...a, subject: null })).toBeNull();
  expect(mixedWay(source, { ...a, subject: null, proportion: proportionOf('16:9') })).toBeNull();
});

test('a subject at the very edge leaves nothing to draw out on that side', () => {
  const source = { width: 3000, height: 2400 };
  const atEdge = { ...subject, box: { x: 0, y: 300, width: 400, height: 2000 } };
  const way = stretchWay(source, asked({ proportion: proportionOf('16:9'), subject: atEdge }))!;
  expect(amountsOfWay(way, source, atEdge).find((s) => s.side === 'left')?.times).toBe(Infinity);
});

test('stretching some and filling the rest is a way where neither does alone', () => {
  const wide = asked({ proportion: proportionOf('16:9'), subject });
  const way = mixedWay(SOURCE, wide)!;
  const { canvas } = way.set;
  const onto = ontoOf(way, SOURCE, subject);
  expect(contains(canvas!, onto)).toBe(true);
  expect(onto.width).toBeGreaterThan(SOURCE.width);
  for (const { times } of amountsOfWay(way, SOURCE, subject)) expect(times).toBeLessThanOrEqual(1.2);
  // Where a little drawing out is enough, and where nothing is asked for, it is none.
  expect(mixedWay({ width: 3500, height: 3600 }, asked({ subject }))).toBeNull();
  expect(mixedWay(SOURCE, asked({ proportion: null, subject }))).toBeNull();
  expect(mixedWay(SOURCE, asked({ subject, degrees: 2 }))).toBeNull();
});
