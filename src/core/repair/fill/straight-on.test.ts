import type { Raster } from '../../raster/raster.ts';
import { toFloat4 } from '../../raster/planes.ts';
import { straightEdges } from './grounds/straight-edges.ts';
import { fillThin } from './thin.ts';

const [width, height] = [260, 120];

/** A light wall over a dark one, with some grain: the edge between them at y = 60, level or bent. */
function walls(bend = 0): Raster {
  let seed = 11;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  const data = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const edge = 60 + bend * ((x - 130) / 130) ** 2;
      const dark = Math.min(1, Math.max(0, y - edge + 0.5));
      const grain = 8 * (random() - 0.5);
      [200, 190, 170].forEach((light, c) => {
        data[(y * width + x) * 3 + c] = light + dark * ([70, 80, 90][c] - light) + grain;
      });
    }
  return { width, height, channels: 3, depth: 8, data };
}

/** A wire of so many px that crosses the edge at 5 degrees. */
function wire(across = 9): Uint8Array {
  const cover = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) if (Math.abs(y - 60 + 0.09 * (x - 130)) <= across / 2) cover[y * width + x] = 1;
  return cover;
}

const groundOf = (picture: Raster, cover: Uint8Array) =>
  [
    { image: toFloat4(picture), width, height, colours: 3 as const, cover },
    Int32Array.from([...cover.keys()].filter((i) => cover[i])),
  ] as const;

function spoiled(picture: Raster, cover: Uint8Array): Raster {
  const data = picture.data.slice();
  for (let i = 0; i < cover.length; i++) if (cover[i]) data.fill(15, 3 * i, 3 * i + 3);
  return { ...picture, data };
}

/** Mean error under a cover where the edge runs, levels. */
function errorOf(picture: Raster, cover: Uint8Array, style: 'faithful' | 'straight'): number {
  const before = spoiled(picture, cover);
  const out = { ...before, data: before.data.slice() };
  fillThin(before, cover, out, { style });
  let [sum, n] = [0, 0];
  for (let y = 54; y < 66; y++)
    for (let x = 70; x < 190; x++) {
      const i = y * width + x;
      if (!cover[i]) continue;
      for (let c = 0; c < 3; c++) sum += Math.abs(out.data[3 * i + c] - picture.data[3 * i + c]);
      n += 3;
    }
  return sum / n;
}

test('the edge under a wire is found to a px, with what lies on both sides', () => {
  const picture = walls();
  const [edge, ...others] = straightEdges(...groundOf(spoiled(picture, wire()), wire()));
  expect(others).toHaveLength(0);
  const at = (x: number) => edge.y + ((x - edge.x) / edge.ux) * edge.uy;
  for (const x of [90, 130, 170]) expect(Math.abs(at(x) - 60)).toBeLessThan(1);
  expect(edge.out).toBe(true);
  expect(edge.to - edge.from).toBeGreaterThan(80);
  const sides = [edge.left[0], edge.right[0]].sort((a, b) => a - b);
  expect(sides[0]).toBeGreaterThan(60);
  expect(sides[0]).toBeLessThan(80);
  expect(sides[1]).toBeGreaterThan(190);
});

test('an edge that a wire crosses at a small angle runs straight on, without being drawn out', () => {
  const picture = walls();
  const predicted = errorOf(picture, wire(), 'faithful');
  const straight = errorOf(picture, wire(), 'straight');
  expect(predicted).toBeGreaterThan(12);
  expect(straight).toBeLessThan(0.4 * predicted);
});

test('what is bent, soft or hardly differs is left to prediction', () => {
  expect(straightEdges(...groundOf(spoiled(walls(70), wire()), wire()))).toHaveLength(0);
  const even = walls();
  for (let i = 0; i < even.data.length; i++) even.data[i] = 120 + (even.data[i] - 120) * 0.12;
  expect(straightEdges(...groundOf(spoiled(even, wire()), wire()))).toHaveLength(0);
  const soft = walls();
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      soft.data.fill(130 - 60 * Math.tanh((y - 60) / 9), 3 * (y * width + x), 3 * (y * width + x) + 3);
  expect(straightEdges(...groundOf(spoiled(soft, wire()), wire()))).toHaveLength(0);
});
