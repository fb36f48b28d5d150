import { createHash } from 'node:crypto';
import type { Stroke } from '../../core/mask/strokes.ts';
import type { CopySpec, RepairSpec } from '../../core/repair/spec.ts';
import { baseKey, keyOf, marksText, revealName, specText, stepKey } from './keys.ts';

const stroke = (n: number): Stroke => ({
  points: [[n, 2, 1]],
  size: 9,
  hardness: 1,
  flow: 1,
  opacity: 1,
  spacing: 0.2,
  pressure: 'none',
});
const copy = (n: number): CopySpec => ({
  method: 'copy',
  strokes: Array.from({ length: n }, (_, i) => stroke(i)),
  donor: { from: [1, 2], at: [3, 4], turn: 0, scale: 1, mirror: 'none', travels: true },
});
const plainly = (original: string, spec: RepairSpec, beneath: string) =>
  createHash('sha256')
    .update(JSON.stringify([original, spec, JSON.parse(beneath)]))
    .digest('hex');

test('keys are the hash of the plain JSON, so that renderings kept in older studios are found', () => {
  const beneath = '[["k",0.5],["l",1,"veil"]]';
  for (const n of [1, 31, 32, 33, 400]) {
    const spec = copy(n);
    expect(keyOf('abc', spec, beneath)).toBe(plainly('abc', spec, beneath));
    expect(keyOf('abc', spec, '[]')).toBe(plainly('abc', spec, '[]'));
    expect(specText(spec)).toBe(JSON.stringify(spec));
  }
});

test('a list that grows, shrinks and branches keeps its own keys', () => {
  let spec = copy(60);
  const seen = new Map<string, CopySpec>();
  for (let n = 0; n < 200; n++) {
    const last = spec.strokes.slice(0, n % 7 === 6 ? -3 : undefined);
    spec = { ...spec, strokes: [...last, stroke(1000 + n)] };
    const key = keyOf('abc', spec, '[]');
    expect(key).toBe(plainly('abc', spec, '[]'));
    seen.set(key, spec);
  }
  expect(seen.size).toBe(200);
  for (const [key, old] of seen) expect(keyOf('abc', old, '[]')).toBe(key);
});

test('one stroke more on two thousand is named in a small part of the time', () => {
  let spec = copy(2000);
  keyOf('abc', spec, '[]');
  const time = (work: () => void) => {
    const t = performance.now();
    work();
    return performance.now() - t;
  };
  const anew = Math.min(...Array.from({ length: 5 }, () => time(() => plainly('abc', spec, '[]'))));
  const grown = Math.min(
    ...Array.from({ length: 9 }, (_, n) => {
      spec = { ...spec, strokes: [...spec.strokes, stroke(5000 + n)] };
      return time(() => keyOf('abc', spec, '[]'));
    }),
  );
  expect(grown).toBeLessThan(anew / 3);
});

test('marks are named alike whoever holds them', () => {
  const marks = [{ op: 'hide' as const, kind: 'stroke' as const, stroke: stroke(1) }];
  const name = createHash('sha256').update(JSON.stringify(marks)).digest('hex').slice(0, 20);
  expect([revealName(marks), revealName([...marks]), revealName([])]).toEqual([name, name, '']);
  expect(marksText(marks)).toBe(JSON.stringify(marks));
});

test('a step has a key from its input and its spec; what is not set passes the key of the source through', () => {
  const canvas = { step: 'canvas', box: { x: -4, y: 0, width: 9, height: 9 } } as const;
  expect(baseKey('abc', [])).toBe('abc');
  // The canvas comes after the repairs: it makes none stale.
  expect(baseKey('abc', [canvas])).toBe('abc');
  expect(stepKey('abc', canvas)).toMatch(/^[0-9a-f]{64}$/);
  expect(stepKey('abd', canvas)).not.toBe(stepKey('abc', canvas));
  expect(stepKey('abc', { ...canvas, box: { ...canvas.box, x: -5 } })).not.toBe(stepKey('abc', canvas));
});
