import { boxOf, type Box } from '../raster/raster.ts';
import { PROPORTIONS, proportionOf, sizeOf, type SubjectPlace } from './format.ts';
import { focusOf } from './focus.ts';
import { framingOf, framingOnPlace, isOnPlace, resolutionAt, roomOf } from './framing.ts';
import { resolutionInWords, roomInWords, sumInWords, wantedInWords } from './words.ts';

const tall = boxOf({ width: 2400, height: 3600 });
const subject = (
  x: number,
  y: number,
  box: Box = { x: x - 200, y: y - 100, width: 400, height: 1500 },
): SubjectPlace => ({
  box,
  focus: [x, y],
  looks: 0,
});

describe('proportions', () => {
  test('are read by name and as two numbers; what is none is refused', () => {
    expect(proportionOf('16:9')!.ratio).toBeCloseTo(1.7778, 4);
    expect(proportionOf('7 x 5')).toEqual({ name: '7:5', ratio: 1.4 });
    expect(proportionOf('2.35:1')!.ratio).toBe(2.35);
    for (const none of ['', '4', '0:3', '1:0', 'square', '100:1']) expect(proportionOf(none)).toBeNull();
  });

  test('1:√2 is that of A4: 210 × 297 mm, halved it stays the same (ISO 216)', () => {
    const a = PROPORTIONS.find((p) => p.name === '1:√2')!.ratio;
    expect(a).toBeCloseTo(210 / 297, 3);
    expect(1 / a / 2).toBeCloseTo(a, 10);
  });
});

describe('a canvas of another proportion', () => {
  test('extending a narrow picture adds at the sides so that the subject stands on a third', () => {
    const f = framingOf(tall, 1, 'extend', subject(500, 1200), { across: 'first third', down: null });
    expect(f.canvas).toEqual({ x: -700, y: 0, width: 3600, height: 3600 });
    expect(f.sides).toEqual({ left: 700, top: 0, right: 500, bottom: 0 });
    expect(f.stands!.across).toBeCloseTo(1 / 3, 3);
    expect(f.added).toBeCloseTo(1 / 3, 5);
    expect([f.lost, f.cut, f.misses.across]).toEqual([0, 0, 0]);
  });

  test('it never lets go of the picture for that: by how much the subject misses its place is said', () => {
    const f = framingOf(tall, 1, 'extend', subject(2200, 1200), { across: 'first third', down: null });
    expect(f.canvas.x).toBe(0);
    expect(f.misses.across).toBe(2200 - 1200);
  });

  test('a crop keeps the subject where it can and says what is lost and cut', () => {
    const f = framingOf(tall, 1, 'crop', subject(1200, 600), { across: null, down: 'first third' });
    expect(f.canvas).toEqual({ x: 0, y: 0, width: 2400, height: 2400 });
    expect(f.lost).toBeCloseTo(1 / 3, 5);
    expect(f.cut).toBe(0);
    const low = framingOf(tall, 16 / 9, 'crop', subject(1200, 600));
    expect(low.canvas).toEqual({ x: 0, y: 1125, width: 2400, height: 1350 });
    // The subject reaches from 500 to 2000: 625 rows of its 400 px are above.
    expect(low.cut).toBe(400 * 625);
  });

  test('with nothing said it grows on both sides alike, and a picture of that proportion stays as it is', () => {
    expect(framingOf(tall, 1, 'extend').sides).toEqual({ left: 600, top: 0, right: 600, bottom: 0 });
    for (const way of ['extend', 'crop'] as const)
      expect(framingOf(tall, 2 / 3, way)).toMatchObject({ canvas: tall, lost: 0, added: 0 });
  });

  test('a canvas that begins below 0 is a picture like any other', () => {
    const f = framingOf({ x: -300, y: -100, width: 1000, height: 1000 }, 2, 'extend');
    expect(f.canvas).toEqual({ x: -800, y: -100, width: 2000, height: 1000 });
  });

  test('around a subject it grows until that stands on both thirds, and holds all of the picture', () => {
    const f = framingOnPlace(tall, 1, 'extend', subject(1100, 1700), { across: 'second third', down: 'first third' });
    expect(f.stands!.across).toBeCloseTo(2 / 3, 2);
    expect(f.stands!.down).toBeCloseTo(1 / 3, 2);
    expect(f.canvas.width).toBe(f.canvas.height);
    expect(f.lost).toBe(0);
    // Above it 1700 px are a third at least.
    expect(f.canvas.width).toBeGreaterThanOrEqual(5100);
  });

  test('a canvas that cannot slide to the asked place grows or shrinks until the subject is on it', () => {
    const placement = { across: null, down: 'first third' } as const;
    for (const [way, y] of [
      ['crop', 3000],
      ['extend', 1700],
    ] as const) {
      const low = subject(1200, y);
      expect(isOnPlace(framingOf(tall, 1, way, low, placement))).toBe(false);
      const f = framingOnPlace(tall, 1, way, low, placement);
      expect(isOnPlace(f)).toBe(true);
      expect(f.canvas.width).toBe(f.canvas.height);
      expect(f.lost > 0).toBe(way === 'crop');
    }
    // Where that would take a canvas many times as large it stays as it slides, and says that it misses.
    const edge = subject(20, 3000);
    const far = framingOnPlace(tall, 1, 'extend', edge, { across: 'second third', down: 'first third' });
    expect(far.canvas).toEqual(
      framingOf(tall, 1, 'extend', edge, { across: 'second third', down: 'first third' }).canvas,
    );
  });

  test('what stands on a third is the middle of the subject’s widest part at that height', () => {
    const outline: Array<[number, number]> = [[100, 0], [140, 0], [140, 80], [400, 80], [400, 100], [100, 100]]; // prettier-ignore
    const shapes = [{ op: 'add' as const, kind: 'outline' as const, points: outline }];
    const box = { x: 100, y: 0, width: 300, height: 100 };
    expect(focusOf(shapes, box, 0.25)).toEqual([120, 25]);
    expect(focusOf(shapes, box, 0.9)).toEqual([250, 90]);
    expect(focusOf([{ op: 'add', kind: 'box', ...box }], box, 0.5)).toEqual([250, 50]);
  });

  test('a proportion that is none is refused', () => {
    expect(() => framingOf(tall, Number.NaN, 'crop')).toThrow('proportion');
    expect(() => framingOf({ ...tall, width: 0 }, 1, 'crop')).toThrow(RangeError);
  });

  test('room above a subject and where it looks', () => {
    const room = roomOf(tall, { ...subject(1200, 460), looks: 1 });
    expect(room.head).toBeCloseTo(0.1, 5);
    expect(room.before).toBeCloseTo(1000 / 2400, 5);
    expect(room.behind).toBeCloseTo(room.before, 5);
  });

  test('resolution: 3600 px on 360 mm are 254 ppi, 15 % short of 300', () => {
    expect(resolutionAt(3600, 360, 300).ppi).toBeCloseTo(254, 6);
    expect(resolutionInWords({ width: 3600, height: 3600 }, 360, 300)).toBe(
      '254 ppi at 360 mm, 15 % below 300 ppi, which it reaches at 305 mm',
    );
    expect(resolutionInWords({ width: 3600, height: 100 }, 300, 300)).toContain('enough');
  });
});

/** Thousands are apart by narrow no-break spaces. */
const plain = (s: string) => s.replaceAll('\u202f', ' ');

describe('in one line', () => {
  const said = { focus: 'The head', delivery: 138 };
  test('what is added where, why, and how wide that is at delivery', () => {
    const placement = { across: 'first third', down: 'first third' } as const;
    const f = framingOf(tall, 1, 'extend', subject(500, 1200), placement);
    expect(plain(sumInWords('1:1', f, { ...said, placement }))).toBe(
      '1:1: adds 700 px on the left and 500 px on the right (46 mm at delivery). The head is on the upper left third.',
    );
  });

  test('what is cut, and what is missed', () => {
    const placement = { across: null, down: 'centre' } as const;
    const f = framingOf(tall, 1, 'crop', subject(1200, 600), placement);
    expect(plain(sumInWords('1:1', f, { ...said, placement }))).toBe(
      '1:1: cuts 1 200 px at the bottom. The head cannot be half-way up: it is 600 px away.',
    );
    const none = { across: null, down: null };
    const same = framingOf(tall, 2 / 3, 'crop', null, none);
    expect(plain(sumInWords('2:3', same, { ...said, placement: none }))).toBe(
      '2:3: the picture has this proportion already.',
    );
  });
});

describe('what is asked for beside the proportion', () => {
  test('a size on paper or in pixels is read from two numbers', () => {
    expect(sizeOf('210 × 297')).toEqual({ width: 210, height: 297 });
    expect(sizeOf('1080x1350')).toEqual({ width: 1080, height: 1350 });
    for (const none of ['1:√2', 'wide', '210', '']) expect(sizeOf(none)).toBeNull();
  });

  test('3600 px on a print 360 mm wide are 254 ppi: 15 % short of 300, 305 mm at that', () => {
    const words = wantedInWords({ width: 3600, height: 2400 }, { by: 'print', width: 360, height: 240, ppi: 300 });
    expect(words).toBe('254 ppi at 360 mm, 15 % below 300 ppi, which it reaches at 305 mm');
  });

  test('pixels that are asked for are there so many times, or are short', () => {
    const asked = { by: 'pixels', width: 1080, height: 1350 } as const;
    expect(wantedInWords({ width: 2400, height: 3000 }, asked)).toBe('2.2 times as wide as asked for');
    expect(wantedInWords({ width: 1090, height: 1362 }, asked)).toBe('as many pixels as asked for');
    expect(wantedInWords({ width: 918, height: 1147 }, asked)).toBe('15 % narrower than asked for');
  });

  test('room above the head, and before the look', () => {
    const canvas = { x: 0, y: 0, width: 1000, height: 1000 };
    const subject = { box: { x: 500, y: 100, width: 200, height: 800 }, focus: [600, 212] as [number, number] };
    expect(roomInWords(canvas, { ...subject, looks: 0 })).toBe('10 % of the height is free above it.');
    expect(roomInWords(canvas, { ...subject, looks: -1 })).toBe(
      '10 % of the height is free above it. 50 % of the width is in front of it, 30 % behind it.',
    );
    expect(roomInWords(canvas, { ...subject, looks: 1 })).toContain(
      '30 % of the width is in front of it, 50 % behind it. It looks out',
    );
    expect(roomInWords({ ...canvas, y: 80 }, { ...subject, looks: 0 })).toContain(
      '2 % of the height is free above it, which is tight',
    );
    expect(roomInWords({ ...canvas, y: 200 }, { ...subject, looks: 0 })).toBe('Part of it is cut off.');
  });
});
