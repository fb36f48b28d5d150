import { Blend, roundedBox, type Layer } from './blend.ts';

const canvas = roundedBox({ x: 0, y: 0, width: 256, height: 128 });

/** A layer from column `from` to `to`, the canvas is taken from it from `own` to `end`. */
function layer(from: number, to: number, own: number, end: number): Layer {
  const column = (inside: (x: number) => boolean) =>
    Uint8Array.from({ length: canvas.width * canvas.height }, (_, i) => (inside(i % canvas.width) ? 1 : 0));
  return { box: canvas, valid: column((x) => x >= from && x < to), own: column((x) => x >= own && x < end) };
}
const layers = [layer(0, 160, 0, 128), layer(96, 256, 128, 256)];
const plane = (k: number, tone: (x: number) => number) =>
  Float32Array.from(layers[k].valid, (v, i) => (v ? tone(i % canvas.width) : 0));

test('what two frames agree on stays as it is, up to their ends', () => {
  const tone = (x: number) => 100 + 40 * Math.sin(x / 3) + x / 4;
  const out = new Blend(canvas, layers).channel([plane(0, tone), plane(1, tone)]);
  for (let x = 0; x < 256; x++) expect(Math.abs(out[64 * 256 + x] - tone(x))).toBeLessThan(2);
});

test('what differs by a tone goes over slowly, what is fine at once', () => {
  const fine = (x: number) => (x % 2 ? 12 : -12);
  const out = new Blend(canvas, layers).channel([plane(0, (x) => 100 + fine(x)), plane(1, () => 130)]);
  const row = out.slice(64 * 256, 65 * 256);
  const mean = (from: number, to: number) => row.slice(from, to).reduce((a, b) => a + b, 0) / (to - from);
  expect(Math.abs(mean(0, 32) - 100)).toBeLessThan(2);
  expect(Math.abs(mean(224, 256) - 130)).toBeLessThan(2);
  // No step of tone anywhere, over 8 px.
  for (let x = 8; x + 16 < 256; x += 8) expect(Math.abs(mean(x, x + 8) - mean(x + 8, x + 16))).toBeLessThan(8);
  const rough = (from: number, to: number) => Math.max(...row.slice(from, to)) - Math.min(...row.slice(from, to));
  expect(rough(100, 104)).toBeGreaterThan(18);
  expect(rough(136, 140)).toBeLessThan(6);
});

test('boxes are rounded outwards to what can be halved', () => {
  expect(roundedBox({ x: -3, y: 65, width: 70, height: 10 })).toEqual({ x: -64, y: 64, width: 192, height: 64 });
});
