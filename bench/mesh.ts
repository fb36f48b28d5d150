// npm run bench:mesh : how well a fence is completed from two traced strands a direction, on photographs with a planted fence.
import type { Point } from '../src/core/mask/shapes.ts';
import { completeMesh } from '../src/core/find/mesh.ts';
import { traceStrand } from '../src/core/find/strand.ts';
import type { Raster } from '../src/core/raster/raster.ts';
import { photograph, PHOTOGRAPHS, randomiser } from './planted.ts';

const distance = (near: Float32Array, width: number, [x, y]: Point) =>
  near[Math.floor(y) * width + Math.floor(x)] ?? 99;

function field(lines: Point[][], width: number, height: number): Float32Array {
  const near = new Float32Array(width * height).fill(99);
  for (const line of lines)
    for (const [x, y] of line)
      for (let v = Math.floor(y) - 7; v <= y + 7; v++)
        for (let u = Math.floor(x) - 7; u <= x + 7; u++) {
          if (u < 0 || v < 0 || u >= width || v >= height) continue;
          const d = Math.hypot(u + 0.5 - x, v + 0.5 - y);
          if (d < near[v * width + u]) near[v * width + u] = d;
        }
  return near;
}

const failures: string[] = [];
const only = process.argv[2];
const seconds: number[] = [];
for (const name of PHOTOGRAPHS) {
  if (only && only !== name) continue;
  const random = randomiser(5);
  const clean = await photograph(name, 1800);
  const { width, height } = clean;
  const picture: Raster = { ...clean, data: clean.data.slice() };
  const families: Point[][][] = [];
  // A fence seen at an angle: spacing shrinks to the right, strands bend a little each in its own way, focus changes.
  for (const lean of [0.9, -0.8]) {
    const lines: Point[][] = [];
    const phase = random() * 6;
    for (let n = -40; n < 60; n++) {
      const x0 = width * 0.3 + 74 * n * (1 - 0.0022 * n);
      const bend = 2 + 3 * random();
      const wave = 90 + 80 * random();
      const line: Point[] = [];
      for (let y = 0; y < height; y += 0.5) {
        const x = x0 + lean * (y - height / 2) * (1 - 0.0012 * n) + bend * Math.sin(y / wave + phase + n);
        if (x >= 0 && x < width) line.push([x, y]);
      }
      if (line.length > 80) lines.push(line);
    }
    families.push(lines);
  }
  const all = families.flat();
  const near = field(all, width, height);
  const tone = name === 'black-canyon' || name === 'nagasaki-boats' ? 225 : 40;
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      const soft = 0.7 + (1.6 * x) / width;
      const half = 2.4;
      const share = Math.min(1, Math.max(0, 0.5 + (half - near[i]) / (2 * soft)));
      if (share > 0)
        for (let c = 0; c < 3; c++)
          picture.data[i * 3 + c] = Math.round(
            picture.data[i * 3 + c] + (tone - picture.data[i * 3 + c]) * share * 0.9,
          );
    }
  }
  const strands = families.flatMap((lines) => {
    const m = lines.length >> 1;
    return [m, m + 1].map((k) => {
      const line = lines[k];
      const pick = [0.15, 0.32, 0.5, 0.68, 0.85].map((t): Point => line[Math.floor(t * (line.length - 1))]);
      return traceStrand(
        picture,
        pick.map(([x, y]) => [x + random() * 2 - 1, y + random() * 2 - 1]),
      );
    });
  });
  const t = performance.now();
  const found = completeMesh(picture, strands);
  seconds.push((performance.now() - t) / 1000);
  let good = 0;
  let total = 0;
  const mine = found.map((s) => s.points);
  for (const s of found)
    for (const p of s.points) {
      if (p[0] < 0 || p[1] < 0 || p[0] >= width || p[1] >= height) continue;
      total++;
      if (distance(near, width, p) <= 2.5) good++;
    }
  const reach = field(mine, width, height);
  let covered = 0;
  let length = 0;
  for (const line of all)
    for (let i = 0; i < line.length; i += 4) {
      length++;
      if (distance(reach, width, line[i]) <= 2.5) covered++;
    }
  const recall = covered / length;
  const precision = good / total;
  const widths = found.map((s) => s.width).sort((a, b) => a - b);
  console.log(
    `${name.padEnd(26)} ${all.length} strands, recall ${recall.toFixed(3)}, precision ${precision.toFixed(3)}, width ${widths[widths.length >> 1]?.toFixed(1)} px of 4.8, ${seconds.at(-1)!.toFixed(1)} s for ${((width * height) / 1e6).toFixed(1)} megapixels`,
  );
  if (recall < 0.95) failures.push(`recall on ${name}`);
  if (precision < 0.9) failures.push(`precision on ${name}`);
}
console.log(failures.length ? `NOT REACHED: ${failures.join(', ')}` : 'all reached');
process.exitCode = failures.length ? 1 : 0;
