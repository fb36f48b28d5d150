import sharp from 'sharp';
import { createRaster, type Raster } from '../raster/raster.ts';
import { rasterise } from '../mask/shapes.ts';
import { suppressClusters, scoreFor } from './find.ts';
import { differenceOf } from './scoring/difference.ts';
import { attentionOf } from './finders/saliency.ts';
import { FINDER_NAMES, runFinders, mergeFinds, sharesOf, survey, type Surveyed } from './survey.ts';

let state = 7;
const random = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296;

/** A soft sky above grainy ground, in colour: nothing in it is a fault. */
function clean(width: number, height: number): Raster {
  const picture = createRaster(width, height, 3, 8);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i += 3) {
      const ground = y > height * 0.6;
      const v = ground
        ? 90 + 14 * Math.sin(x * 0.21 + Math.sin(y * 0.13)) + 10 * Math.sin(y * 0.4)
        : 150 + (40 * y) / height;
      const noise = 6 * (random() - 0.5);
      picture.data[i] = v + noise;
      picture.data[i + 1] = v + noise + (ground ? 8 : 4);
      picture.data[i + 2] = v + noise + (ground ? -30 : 25);
    }
  }
  return picture;
}

/** Lays drawings over a picture. */
async function drawn(picture: Raster, svg: string): Promise<Raster> {
  const { width, height } = picture;
  const input = Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${svg}</svg>`);
  const data = await sharp(picture.data as Uint8Array, { raw: { width, height, channels: 3 } })
    .composite([{ input }])
    .removeAlpha()
    .raw()
    .toBuffer();
  return { ...picture, data: new Uint8Array(data) };
}

const found = (finds: Surveyed[], kind: string) => finds.filter((f) => f.kind === kind && f.score >= scoreFor(0.5));
const at = (f: Surveyed, x: number, y: number, slack = 6) =>
  x >= f.box.x - slack &&
  y >= f.box.y - slack &&
  x <= f.box.x + f.box.width + slack &&
  y <= f.box.y + f.box.height + slack;

describe('survey', () => {
  test('finds planted specks with their own size and cover, light and dark, and little else', async () => {
    const specks = [
      [80, 60, 3, '#fff'],
      [300, 90, 6, '#111'],
      [520, 140, 14, '#fff'],
      [610, 50, 2, '#111'],
      [150, 330, 7, '#fff'],
      [420, 350, 9, '#fff'],
    ] as const;
    const picture = await drawn(
      clean(700, 420),
      specks.map(([x, y, r, c]) => `<circle cx="${x}" cy="${y}" r="${r}" fill="${c}"/>`).join(''),
    );
    const finds = found(survey(picture, { finders: ['specks'] }), 'speck');
    for (const [x, y, r, colour] of specks) {
      const hit = finds.find((f) => at(f, x, y, 0));
      expect(hit).toBeDefined();
      expect(Math.abs(hit!.width - 2 * r)).toBeLessThan(1.5);
      expect(Math.sign(hit!.contrast)).toBe(colour === '#fff' ? 1 : -1);
      const area = rasterise(hit!.shapes, hit!.box).data.filter((v) => v > 0).length;
      expect(Math.abs(area - Math.PI * r * r)).toBeLessThan(0.25 * Math.PI * r * r + 4);
      expect(hit!.difference).toBeGreaterThan(10);
    }
    expect(finds.length).toBeLessThanOrEqual(specks.length + 2);
    expect(found(survey(clean(700, 420), { finders: ['specks'] }), 'speck').length).toBeLessThanOrEqual(3);
  });

  test('tells hairs, scratches and wires apart and follows them', async () => {
    const picture = await drawn(
      clean(800, 500),
      `<path d="M 60 60 q 40 60 90 10 t 60 30" stroke="#fff" stroke-width="2" fill="none"/>
       <path d="M 500 30 L 540 270" stroke="#fff" stroke-width="2.5" fill="none"/>
       <path d="M 5 150 Q 400 230 795 140" stroke="#111" stroke-width="4" fill="none"/>`,
    );
    const finds = survey(picture, { finders: ['curves'] });
    const [hair] = found(finds, 'hair').filter((f) => at(f, 105, 92, 12));
    const [scratch] = found(finds, 'scratch').filter((f) => at(f, 520, 100));
    const wires = found(finds, 'strand');
    expect(hair.length).toBeGreaterThan(110);
    expect(hair.contrast).toBeGreaterThan(20);
    expect(Math.abs(scratch.width - 2.5)).toBeLessThan(1);
    expect(scratch.length).toBeGreaterThan(200);
    expect(wires).toHaveLength(1);
    expect(wires[0].length).toBeGreaterThan(740);
    expect(Math.abs(wires[0].width - 4)).toBeLessThan(1.2);
  });

  test('reads the damage of a print: crease from edge to edge, torn corner, stain', async () => {
    const paper = createRaster(900, 640, 3, 8);
    for (let y = 0, i = 0; y < 640; y++) {
      for (let x = 0; x < 900; x++, i += 3) {
        const inside = x > 40 && y > 40 && x < 860 && y < 600;
        const v = inside
          ? 120 + 30 * Math.sin(x * 0.02) * Math.cos(y * 0.03) + 8 * (random() - 0.5)
          : 232 + 4 * (random() - 0.5);
        paper.data.set([v, v * 0.96, v * 0.88], i);
      }
    }
    let zig = 'M -5 330';
    for (let x = 0; x <= 910; x += 25) zig += ` L ${x} ${330 + (x % 50 ? 3 : -3)}`;
    const picture = await drawn(
      paper,
      `<path d="${zig}" stroke="#fdf8ec" stroke-width="7" fill="none"/>
       <path d="M 905 500 L 790 560 L 760 645 L 905 645 Z" fill="#3a3f44"/>
       <ellipse cx="260" cy="170" rx="80" ry="66" fill="#8a5a1c" opacity=".35"/>`,
    );
    const finders = ['creases', 'tears', 'stains'] as const;
    const finds = survey(picture, { finders });
    const [crease] = found(finds, 'crease');
    expect(crease.length).toBeGreaterThan(800);
    expect(Math.abs(crease.box.y + crease.box.height / 2 - 330)).toBeLessThan(14);
    const tears = found(finds, 'tear');
    expect(tears).toHaveLength(1);
    expect(at(tears[0], 860, 600)).toBe(true);
    const stains = found(finds, 'stain').filter((f) => at(f, 260, 170));
    expect(stains).toHaveLength(1);
    expect(Math.abs(stains[0].box.width - 160)).toBeLessThan(40);
    // In a colour picture neither a crease nor a stain is claimed.
    const colour = survey(clean(700, 420), { finders });
    expect([...found(colour, 'crease'), ...found(colour, 'tear'), ...found(colour, 'stain')]).toEqual([]);
  });

  test('scuffs are what departs from the weave; the weave and the fall-off of light are none', async () => {
    const weave = createRaster(700, 500, 3, 8);
    for (let y = 0, i = 0; y < 500; y++) {
      for (let x = 0; x < 700; x++, i += 3) {
        const fall = 1 - (0.25 * (((x - 350) / 350) ** 2 + ((y - 250) / 250) ** 2)) / 2;
        const v = (110 + 7 * Math.sin(x * 0.9) * Math.sin(y * 0.9) + 5 * (random() - 0.5)) * fall;
        weave.data.set([v, v, v * 1.02], i);
      }
    }
    const backdrop = [{ op: 'add' as const, kind: 'box' as const, x: 10, y: 10, width: 680, height: 480 }];
    expect(survey(weave, { finders: ['scuffs'], backdrop }).filter((f) => f.score >= 0.5)).toEqual([]);
    const scuffed = await drawn(
      weave,
      '<path d="M 300 200 q 20 8 46 2" stroke="#ddd" stroke-width="6" opacity=".5" fill="none"/>',
    );
    const finds = survey(scuffed, { finders: ['scuffs'], backdrop }).filter((f) => f.score >= 0.5);
    expect(finds.length).toBeGreaterThanOrEqual(1);
    expect(finds.every((f) => at(f, 323, 204, 30))).toBe(true);
    expect(survey(scuffed, { finders: ['scuffs'] })).toEqual([]);
  });

  test('what draws the eye: a red thing on grass is first, and is left out when it is the subject', async () => {
    const picture = await drawn(clean(700, 420), '<rect x="500" y="330" width="36" height="26" fill="#c22"/>');
    const map = attentionOf({ picture });
    const value = (x: number, y: number) => map.data[Math.floor(y / map.scale) * map.width + Math.floor(x / map.scale)];
    expect(value(518, 343)).toBeGreaterThan(0.9);
    expect(value(200, 350)).toBeLessThan(0.4);
    const [first] = survey(picture, { finders: ['standouts'] });
    expect(at(first, 518, 343, 0)).toBe(true);
    expect(first.score).toBeGreaterThan(0.5);
    const subject = [{ op: 'add' as const, kind: 'box' as const, x: 480, y: 310, width: 80, height: 70 }];
    expect(survey(picture, { finders: ['standouts'], subject }).some((f) => at(f, 518, 343, 0))).toBe(false);
  });

  test('gaps are the strips of one colour along the sides, and what is transparent', () => {
    const picture = clean(200, 150);
    for (let y = 0; y < 150; y++)
      for (let x = 180; x < 200; x++) picture.data.fill(255, (y * 200 + x) * 3, (y * 200 + x) * 3 + 3);
    const [gap, ...more] = survey(picture, { finders: ['gaps'] });
    expect(gap.box).toEqual({ x: 180, y: 0, width: 20, height: 150 });
    expect(more).toEqual([]);
    expect(survey(clean(200, 150), { finders: ['gaps'] })).toEqual([]);
    const clear = createRaster(60, 50, 4, 8);
    clear.data.forEach((_, i) => (clear.data[i] = i % 4 === 3 ? 255 : (i * 37) % 251));
    for (let y = 10; y < 20; y++) for (let x = 30; x < 45; x++) clear.data[(y * 60 + x) * 4 + 3] = 0;
    expect(survey(clear, { finders: ['gaps'] }).map((f) => f.box)).toEqual([{ x: 30, y: 10, width: 15, height: 10 }]);
  });

  test('can be cancelled, and says how far it is', () => {
    const seen: number[] = [];
    survey(clean(160, 100), { onProgress: (f) => seen.push(f) });
    expect(seen.at(-1)).toBeCloseTo(1);
    expect(seen.every((v, i) => i === 0 || v >= seen[i - 1] - 1e-9)).toBe(true);
    expect(() =>
      survey(clean(160, 100), {
        onProgress: () => {
          throw new Error('Cancelled.');
        },
      }),
    ).toThrow('Cancelled.');
  });
});

test('finds that lie together far denser than elsewhere are doubted, lone ones are not', () => {
  const finds = [
    ...Array.from({ length: 60 }, (_, n) => ({ x: 500 + (n % 10) * 18, y: 500 + Math.floor(n / 10) * 18 })),
    { x: 100, y: 100 },
    { x: 900, y: 150 },
  ].map((p) => ({ box: { ...p, width: 4, height: 4 }, score: 0.9, length: 4 }));
  const after = suppressClusters(finds, 1000, 1000);
  expect(after.slice(0, 60).every((f) => f.score < 0.5)).toBe(true);
  expect(after.slice(60).map((f) => f.score)).toEqual([0.9, 0.9]);
});

test('colour difference of a cover to its rim: of one tone none, white on black all of lightness', () => {
  const picture = createRaster(60, 60, 3, 8);
  picture.data.fill(128);
  const cover = [{ op: 'add' as const, kind: 'box' as const, x: 20, y: 20, width: 20, height: 20 }];
  expect(differenceOf(picture, cover)).toBeCloseTo(0);
  picture.data.fill(0);
  for (let y = 20; y < 40; y++) picture.data.fill(255, (y * 60 + 20) * 3, (y * 60 + 40) * 3);
  expect(differenceOf(picture, cover)).toBeCloseTo(100, 0);
});

describe('on several threads', () => {
  test('finders are shared out whole, each once, the two dear ones apart', () => {
    for (const threads of [1, 2, 3, 20]) {
      const shares = sharesOf(FINDER_NAMES, threads);
      expect(shares.length).toBeLessThanOrEqual(threads);
      expect(shares.flat().sort()).toEqual([...FINDER_NAMES].sort());
      expect(shares.every((s) => s.length > 0)).toBe(true);
      if (threads > 1) expect(shares.find((s) => s.includes('specks'))).not.toContain('curves');
    }
  });

  test('the same is found as on one', async () => {
    const picture = await drawn(
      clean(320, 240),
      '<circle cx="60" cy="50" r="4" fill="#fff"/><circle cx="160" cy="70" r="3" fill="#fff"/><path d="M200 20 L290 130" stroke="#fff" stroke-width="2"/>',
    );
    const finders = ['specks', 'curves', 'gaps'] as const;
    const parts = sharesOf(finders, 2).flatMap((share) => runFinders(picture, { finders: share }));
    expect(mergeFinds(picture, parts)).toEqual(survey(picture, { finders }));
    expect(parts.length).toBeGreaterThan(2);
  });
});
