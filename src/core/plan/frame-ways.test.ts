import { contains, createRaster, grow, type Raster } from '../raster/raster.ts';
import { slightlyOnto } from '../repair/stretch/amounts.ts';
import { goWay, onCanvas, previewOf, specsOfWay, type WayAsked } from './frame-ways.ts';

const SOURCE = { x: 0, y: 0, width: 120, height: 90 };
const CANVAS = { x: -40, y: 0, width: 190, height: 90 };
const subject = [{ op: 'add', kind: 'box', x: 50, y: 20, width: 30, height: 60 } as const];
const asked = (way: WayAsked['way'], set: Partial<WayAsked> = {}): WayAsked => ({ way, canvas: CANVAS, subject, by: 'smooth', ...set }); // prettier-ignore

/** A backdrop with weave and a block before it. */
function picture(width: number, height: number): Raster {
  const out = createRaster(width, height, 3, 8);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const [u, v] = [(x * SOURCE.width) / width, (y * SOURCE.height) / height];
      const own = u >= 50 && u < 80 && v >= 20 && v < 80;
      const weave = ((i * 2654435761) >>> 9) % 9;
      for (let c = 0; c < 3; c++) out.data[3 * i + c] = own ? 30 + 5 * c : 150 - 10 * c + weave;
    }
  return out;
}

test('a background is drawn out a fifth at most, and no side by more than is asked', () => {
  const guard = { x: 50, y: 20, width: 30, height: 60 };
  expect(slightlyOnto(SOURCE, CANVAS, guard)).toEqual({ x: -10, y: 0, width: 138, height: 90 });
  expect(slightlyOnto(SOURCE, { ...CANVAS, x: -4, width: 126 }, guard)).toEqual({
    x: -4,
    y: 0,
    width: 126,
    height: 90,
  });
  // Without a subject all of the width is drawn out, as both sides ask.
  expect(slightlyOnto(SOURCE, CANVAS, null)).toEqual({ x: -14, y: 0, width: 144, height: 90 });
  // Where the subject stands at the edge there is nothing to draw out.
  expect(slightlyOnto(SOURCE, CANVAS, { ...guard, x: 0 }).x).toBe(0);
});

test('each way is the repairs that lead to it: filled, drawn out, or drawn out and then filled', () => {
  const of = (way: WayAsked['way']) => specsOfWay(asked(way), SOURCE).map((s) => s.method);
  expect([of('extend'), of('stretch'), of('mixed')]).toEqual([['fill'], ['stretch'], ['stretch', 'fill']]);
  const [stretch, fill] = specsOfWay(asked('mixed', { by: 'seams' }), SOURCE);
  expect(stretch).toMatchObject({ from: SOURCE, onto: { x: -10, width: 138 }, way: 'seams' });
  expect(fill).toMatchObject({ barred: subject, light: true });
  expect('cover' in fill && fill.cover).toEqual([
    { op: 'add', kind: 'box', x: -40, y: 0, width: 30, height: 90 },
    { op: 'add', kind: 'box', x: 128, y: 0, width: 22, height: 90 },
  ]);
  expect(specsOfWay(asked('extend', { canvas: SOURCE }), SOURCE)).toEqual([]);
});

test('areas and guides that are drawn reach the fill, and a barred area is barred beside the subject', () => {
  const box = (x: number) => ({ op: 'add' as const, kind: 'box' as const, x, y: 10, width: 20, height: 20 });
  const guide = { op: 'add' as const, kind: 'strand' as const, points: [[5, 40], [-30, 42]] as Array<[number, number]>, size: 1 }; // prettier-ignore
  const drawn = { donorArea: [box(60)], barred: [box(90)], edges: [guide] };
  const [fill] = specsOfWay(asked('extend', drawn), SOURCE);
  expect(fill).toMatchObject({ donorArea: [box(60)], barred: [...subject, box(90)], edges: [guide] });
  expect(specsOfWay(asked('extend'), SOURCE)[0]).not.toHaveProperty('edges');
});

test('gone, a way leaves no px of the canvas empty and the subject as it was, to the bit', () => {
  const source = picture(120, 90);
  for (const way of ['extend', 'stretch', 'mixed'] as const) {
    const raster = onCanvas(source, CANVAS);
    const done = goWay(raster, SOURCE, asked(way));
    expect(done).toHaveLength(way === 'mixed' ? 2 : 1);
    let [empty, changed] = [0, 0];
    for (let y = 0; y < 90; y++)
      for (let x = 0; x < 190; x++) {
        const i = 3 * (y * 190 + x);
        if (!raster.data[i] && !raster.data[i + 1]) empty++;
        const u = x + CANVAS.x;
        if (u >= 50 && u < 80 && y >= 20 && y < 80)
          for (let c = 0; c < 3; c++) if (raster.data[i + c] !== source.data[3 * (y * 120 + u) + c]) changed++;
      }
    expect([way, empty, changed]).toEqual([way, 0, 0]);
  }
});

test('what is still to be treated lends nothing, looked at small or for good', () => {
  const open = [{ op: 'add', kind: 'box', x: 100, y: 30, width: 20, height: 30 } as const];
  for (const spec of specsOfWay(asked('extend', { open }), SOURCE)) expect(spec).toMatchObject({ avoid: open });
  // A red sheet at the edge, that would be laid in again beside it.
  const small = picture(60, 45);
  for (let y = 15; y < 30; y++) for (let x = 50; x < 60; x++) small.data.set([230, 20, 10], 3 * (60 * y + x));
  const reds = (set: Partial<WayAsked>) => {
    const { raster } = previewOf(small, 2, asked('extend', set));
    let count = 0;
    for (let i = 0; i < 95 * 45; i++) count += Number(i % 95 >= 82 && raster.data[3 * i] > 200);
    return count;
  };
  expect(reds({})).toBeGreaterThan(20);
  expect(reds({ open })).toBe(0);
});

test('looked at small, it has the canvas in small, filled, and what is told of it lies there', () => {
  const { raster, signs } = previewOf(picture(60, 45), 2, asked('mixed'));
  expect(raster).toMatchObject({ width: 95, height: 45 });
  expect(raster.data.filter((v) => v === 0)).toHaveLength(0);
  const canvas = { x: -20, y: 0, width: 95, height: 45 };
  for (const { box } of signs) expect(contains(grow(canvas, 1), box)).toBe(true);
  expect(() =>
    previewOf(picture(60, 45), 2, asked('stretch', { subject: [{ ...subject[0], x: 0, width: 120 }] })),
  ).toThrow();
});
