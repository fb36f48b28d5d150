import type { Shape } from '../mask/shapes.ts';
import { rasterise } from '../mask/shapes.ts';
import { createRaster, crop, type Box, type Raster } from '../raster/raster.ts';
import type { Surroundings } from './advice.ts';
import { adviseDonors } from '../repair/hand/donor-search.ts';
import { propose, proposeByHand } from './proposal.ts';
import { findTwin } from './twin.ts';

let seed = 5;
const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
/** A grey picture from a function of place, with a little noise. */
function picture(width: number, height: number, tone: (x: number, y: number) => number, noise = 4): Raster {
  const r = createRaster(width, height, 1, 8);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++)
      r.data[i] = Math.min(255, Math.max(0, Math.round(tone(x, y) + (random() - 0.5) * 2 * noise)));
  return r;
}
const spot = (x: number, y: number, size: number): Shape[] => [{ op: 'add', kind: 'brush', points: [[x, y]], size }];
const beneathOf = (r: Raster) => ({ width: r.width, height: r.height, read: (box: Box) => crop(r, box) });
const around = (set: Partial<Surroundings>): Surroundings => ({
  across: 20,
  edge: Infinity,
  crossed: false,
  uneven: 2,
  texture: 1.5,
  ...set,
});

describe('the best donors', () => {
  const box = { x: 140, y: 90, width: 20, height: 20 };
  const mask = { ...box, data: rasterise(spot(150, 100, 20), box).data };

  test('have the tone of the surroundings, not that of the other side', () => {
    const halves = picture(300, 200, (x) => (x < 190 ? 90 : 180));
    const donors = adviseDonors(beneathOf(halves), mask, [], { reach: 130, most: 3 });
    expect(donors).toHaveLength(3);
    for (const d of donors) expect(d.at[0]).toBeLessThan(180);
    expect(donors.map((d) => d.score)).toEqual(donors.map((d) => d.score).sort((a, b) => b - a));
    for (const a of donors)
      for (const b of donors) if (a !== b) expect(Math.hypot(a.at[0] - b.at[0], a.at[1] - b.at[1])).toBeGreaterThan(14);
  });

  test('lie along an edge that crosses the cover, on the same line of it', () => {
    const edge = picture(300, 200, (_, y) => (y < 100 ? 70 : 190));
    const [best] = adviseDonors(beneathOf(edge), mask, [], { reach: 130, most: 1 });
    expect(Math.abs(best.at[1] - 100)).toBeLessThanOrEqual(2);
    expect(Math.abs(best.at[0] - 150)).toBeGreaterThan(16);
  });

  test('have the grain of the surroundings', () => {
    const grains = picture(300, 200, () => 120, 0);
    for (let y = 0; y < 200; y++)
      for (let x = 0; x < 230; x++) grains.data[y * 300 + x] += Math.round((random() - 0.5) * 40);
    for (const d of adviseDonors(beneathOf(grains), mask, [], { reach: 130, most: 3 }))
      expect(d.at[0]).toBeLessThan(225);
  });

  test('keep off the cover, other faults and the edge of the picture; none is left where all is barred', () => {
    const plain = picture(300, 200, () => 120);
    const barred: Shape[] = [{ op: 'add', kind: 'box', x: 0, y: 0, width: 145, height: 200 }];
    for (const d of adviseDonors(beneathOf(plain), mask, barred, { reach: 130, most: 3 })) {
      expect(d.at[0] - 10).toBeGreaterThanOrEqual(144);
      expect(d.at[0] + 10).toBeLessThanOrEqual(300);
      expect(Math.hypot(d.at[0] - 150, d.at[1] - 100)).toBeGreaterThan(18);
    }
    const all: Shape[] = [{ op: 'add', kind: 'box', x: 0, y: 0, width: 300, height: 200 }];
    expect(adviseDonors(beneathOf(plain), mask, all, { reach: 130, most: 3 })).toEqual([]);
  });
});

describe('the method', () => {
  test('follows the table of the trade', () => {
    expect(proposeByHand('object', around({ crossed: true })).method).toBe('copy');
    expect(proposeByHand('object', around({ edge: 6 })).method).toBe('copy');
    expect(proposeByHand('scratch', around({ across: 8 })).method).toBe('blend');
    expect(proposeByHand('speck', around({})).method).toBe('blend');
    expect(proposeByHand('speck', around({ texture: 7 })).method).toBe('fill');
    expect(proposeByHand('object', around({ across: 300 })).method).toBe('patch');
    expect(proposeByHand('object', around({ across: 300, texture: 9 })).method).toBe('fill');
    expect(proposeByHand('object', around({ across: 80, crossed: true }), { twin: true }).method).toBe('transplant');
  });

  test('never searches where the editor chooses donors', () => {
    for (const across of [10, 60, 200, 400])
      for (const texture of [1, 5, 12])
        for (const crossed of [false, true])
          expect(
            proposeByHand('object', around({ across, texture, crossed }), { donorPolicy: 'choose' }).method,
          ).not.toBe('fill');
  });

  test('a brush of 1.2 to 1.5 times a spot, harder at an edge, less flow in passes on fine detail, lines weakened', () => {
    const plain = proposeByHand('speck', around({ across: 30 }));
    expect(plain.brush.size / 30).toBeGreaterThanOrEqual(1.2);
    expect(plain.brush.size / 30).toBeLessThanOrEqual(1.5);
    expect(plain.brush.hardness).toBe(0.8);
    expect(proposeByHand('object', around({ crossed: true })).brush.hardness).toBeGreaterThan(0.8);
    const busy = proposeByHand('object', around({ texture: 14 }));
    expect(busy.brush.flow).toBeLessThanOrEqual(0.25);
    // So many passes leave at most a twentieth of the fault.
    expect((1 - busy.brush.flow) ** busy.passes).toBeLessThanOrEqual(0.05);
    const line = proposeByHand('crease', around({ across: 12 }));
    expect(line.strength).toBeGreaterThanOrEqual(0.6);
    expect(line.strength).toBeLessThanOrEqual(0.8);
    expect(line.reason).toContain('70 %');
  });

  test('is measured on the picture itself', () => {
    const edge = picture(300, 200, (_, y) => (y < 100 ? 60 : 200));
    expect(propose(edge, 'object', spot(150, 100, 24), []).method).toBe('copy');
    const plain = propose(
      picture(300, 200, () => 120),
      'speck',
      spot(150, 100, 24),
      [],
    );
    expect(plain.method).toBe('blend');
    expect(plain.reason).toMatch(/^2\d px across/);
    expect(plain.donors).toHaveLength(3);
  });
});

describe('a twin', () => {
  // Two houses, the right one mirrored: a dark door off the middle and a light window.
  const house = (x: number, y: number) =>
    Math.abs(x) > 40 || Math.abs(y) > 40
      ? 110
      : x > 8 && x < 24 && y > 0
        ? 40
        : x > -28 && x < -10 && Math.abs(y + 12) < 9
          ? 220
          : 150;
  const twins = () => picture(420, 220, (x, y) => (x < 210 ? house(x - 100, y - 110) : house(320 - x, y - 110)));

  test('is found mirrored, where it stands', () => {
    const twin = findTwin(twins(), spot(84, 100, 22), []);
    expect(twin?.mirrored).toBe(true);
    expect(Math.abs(twin!.at[0] - 336)).toBeLessThanOrEqual(6);
    expect(Math.abs(twin!.at[1] - 100)).toBeLessThanOrEqual(6);
    expect(propose(twins(), 'object', spot(84, 100, 40), []).method).toBe('transplant');
  });

  test('is not seen in plain ground or where there is none', () => {
    expect(
      findTwin(
        picture(300, 200, () => 120),
        spot(150, 100, 24),
        [],
      ),
    ).toBeNull();
    const alone = picture(420, 220, (x, y) =>
      x < 210 ? house(x - 100, y - 110) : 110 + 30 * Math.sin(x / 9) * Math.cos(y / 13),
    );
    expect(findTwin(alone, spot(84, 100, 22), [])).toBeNull();
  });
});
