import { edgeWidthsOf } from './edge-widths.ts';
import type { Level } from './levels.ts';
import { softened } from './soften.ts';

/** A level by tone, all known but for a square from `from` to `to` both ways. */
function level(width: number, height: number, tone: (x: number, y: number) => number, from = 0, to = 0): Level {
  const pixels = new Uint8Array(4 * width * height);
  const cover = new Uint8Array(width * height);
  for (let i = 0; i < cover.length; i++) {
    const [x, y] = [i % width, Math.floor(i / width)];
    pixels.fill(Math.round(tone(x, y)), 4 * i, 4 * i + 3);
    if (x >= from && x < to && y >= from && y < to) cover[i] = 1;
  }
  const known = cover.map((v) => 1 - v);
  return { width, height, pixels, cover, covered: cover.reduce((a, b) => a + b, 0), known, allowed: known };
}

describe('width of edges', () => {
  const ramp = (wide: number) => (x: number) => 60 + 120 * Math.min(1, Math.max(0, (x - 60) / wide + 0.5));

  test.each([4, 10, 24])('a ramp of %i px is measured as such', (wide) => {
    const widths = edgeWidthsOf(level(128, 64, ramp(wide)));
    expect(widths.at(60, 32) / wide).toBeGreaterThan(0.75);
    expect(widths.at(60, 32) / wide).toBeLessThan(1.3);
  });

  test('a sharp edge among soft ones counts, and where all is even nothing is told', () => {
    const widths = edgeWidthsOf(level(256, 64, (x) => ramp(20)(x) + (x > 66 && x < 69 ? 70 : 0)));
    expect(widths.at(64, 32)).toBeLessThan(3);
    expect(widths.at(220, 32)).toBe(0);
  });

  test('what is covered does not count', () => {
    const shown = level(128, 128, (x) => ramp(20)(x));
    const hidden = level(128, 128, (x, y) => (x >= 56 && x < 72 && y >= 56 && y < 72 ? 255 : ramp(20)(x)), 56, 72);
    expect(hidden.known[64 * 128 + 64]).toBe(0);
    expect(edgeWidthsOf(hidden).at(60, 20)).toBeCloseTo(edgeWidthsOf(shown).at(60, 20), 1);
    expect(edgeWidthsOf(hidden).at(60, 64)).toBeGreaterThan(12);
  });
});

describe('tone where the picture is soft', () => {
  // A square of 16 px taken from a place that is 40 darker, with no correction yet.
  const [from, to] = [20, 36];
  const own = level(96, 56, (x) => (x < 48 ? 160 : 120), from, to);
  const side = to - from;
  const many = side * side;
  const pieces = {
    box: { x: from, y: from, width: side, height: side },
    labels: new Int32Array(many),
    moves: [{ x: 40, y: 0 }],
  };
  const nodes = {
    pixels: Int32Array.from({ length: many }, (_, n) => n),
    node: Int32Array.from({ length: many }, (_, n) => n),
    width: side,
  };
  const evened = (wide: number) => {
    const solved = new Float32Array(4 * many);
    softened(pieces, own, nodes, () => wide, solved);
    return (x: number, y: number) => solved[4 * (y * side + x)];
  };

  test('a step at the rim is gone there and fades out over as many px as edges are wide', () => {
    const add = evened(2);
    expect(add(0, 8)).toBeGreaterThan(34);
    expect(add(0, 8)).toBeLessThanOrEqual(40);
    const fading = [0, 1, 2, 3, 4, 5].map((x) => add(x, 8));
    expect(fading).toEqual([...fading].sort((a, b) => b - a));
    expect(add(2, 8) / add(0, 8)).toBeLessThan(0.5);
    // Four sides, each e⁻⁴ of 40.
    expect(add(8, 8)).toBeLessThan(4);
    // Wider edges, wider fading.
    expect(evened(4)(4, 8)).toBeGreaterThan(2 * add(4, 8));
  });

  test('where edges are sharp nothing changes', () => {
    const add = evened(0);
    for (const x of [0, 4, 8]) expect(add(x, 8)).toBe(0);
  });
});
