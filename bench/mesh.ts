// npm run bench:mesh : how well a fence is completed from two traced strands a direction, on photographs with a planted fence.
import type { Point } from '../src/core/mask/shapes.ts';
import { findClips } from '../src/core/find/strand/clips.ts';
import { lumaPlane } from '../src/core/raster/luma.ts';
import { completeMesh } from '../src/core/find/strand/mesh/complete-mesh.ts';
import { traceStrand } from '../src/core/find/strand/strand.ts';
import { distance, field, OPACITY, plantClips, plantFence } from './fence.ts';
import { meanOf, NOTICED, photograph, PHOTOGRAPHS, randomiser } from './planted.ts';
import { matchSpeck } from './specks.ts';

/** A line as a place every px or so. */
const everyPx = (line: Point[]): Point[] =>
  line.flatMap(([x, y], i) => {
    const [u, v] = line[Math.max(0, i - 1)];
    const n = Math.max(1, Math.ceil(Math.hypot(x - u, y - v)));
    return Array.from({ length: n }, (_, k): Point => [u + ((x - u) * (k + 1)) / n, v + ((y - v) * (k + 1)) / n]);
  });

/** Where along a planted strand it differs enough from its ground to be seen, taken over some 40 px of it. */
function seenAlong(luma: Float32Array, width: number, line: Point[], tone: number): boolean[] {
  const beside = [-4, -2, 0, 2, 4];
  const sums = [0];
  for (const [x, y] of line) {
    const at = Math.floor(y) * width + Math.floor(x);
    sums.push(sums.at(-1)! + beside.reduce((s, k) => s + (luma[at + k] ?? luma[at]), 0) / beside.length);
  }
  return line.map((_, i) => {
    const [from, to] = [Math.max(0, i - 30), Math.min(line.length, i + 31)];
    return OPACITY * Math.abs(tone - (sums[to] - sums[from]) / (to - from)) >= NOTICED;
  });
}

const pictures: Array<{ recall: number; precision: number }> = [];
const clipsFound = { hit: 0, wrong: 0, all: 0 };
const failures: string[] = [];
const only = process.argv[2];
const seconds: number[] = [];
const LARGE = { name: 'nagasaki-boats', width: 4250, half: 6, gap: 185 };
for (const { name, width: wide, half, gap } of [
  ...PHOTOGRAPHS.map((name) => ({ name, width: 1800, half: 2.4, gap: 74 })),
  // As large as a camera's, with strands as wide as they are there; its time is what counts.
  LARGE,
]) {
  if (only && only !== name) continue;
  const random = randomiser(5);
  const clean = await photograph(name, wide);
  const { width, height } = clean;
  const tone = name === 'black-canyon' || name === 'nagasaki-boats' ? 225 : 40;
  const { picture, families, all, near } = plantFence(clean, { random, tone, half, gap });
  const clips = plantClips(picture, all, tone, half, randomiser(9));
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
  const mine = found.map((s) => everyPx(s.points));
  for (const s of found)
    for (const p of s.points) {
      if (p[0] < 0 || p[1] < 0 || p[0] >= width || p[1] >= height) continue;
      total++;
      if (distance(near, width, p) <= 2.5) good++;
    }
  const reach = field(mine, width, height);
  const luma = lumaPlane(clean);
  const whole = { covered: 0, length: 0 };
  const seen = { covered: 0, length: 0 };
  for (const line of all) {
    const visible = seenAlong(luma, width, line, tone);
    for (let i = 0; i < line.length; i += 4) {
      const hit = distance(reach, width, line[i]) <= 2.5 ? 1 : 0;
      for (const part of visible[i] ? [whole, seen] : [whole]) {
        part.length++;
        part.covered += hit;
      }
    }
  }
  const recall = whole.covered / whole.length;
  const seenRecall = seen.covered / seen.length;
  const precision = good / total;
  pictures.push({ recall, precision });
  const t2 = performance.now();
  const onIt = findClips(picture, found);
  const clipTime = (performance.now() - t2) / 1000;
  const matches = onIt.map((f) => matchSpeck(f, clips.owner, clips.list, width));
  const hit = new Set(matches.filter((m) => m >= 0)).size;
  const wrong = matches.filter((m) => m < 0).length;
  clipsFound.hit += hit;
  clipsFound.wrong += wrong;
  clipsFound.all += clips.list.length;
  const widths = found.map((s) => s.width).sort((a, b) => a - b);
  console.log(
    `${name.padEnd(26)} ${all.length} strands, recall ${recall.toFixed(3)} (${seenRecall.toFixed(3)} of the ${(seen.length / whole.length).toFixed(2)} that can be seen), precision ${precision.toFixed(3)}, width ${widths[widths.length >> 1]?.toFixed(1)} px of ${2 * half}, ${seconds.at(-1)!.toFixed(1)} s for ${((width * height) / 1e6).toFixed(1)} megapixels; ${hit} of ${clips.list.length} clips, ${wrong} false, ${clipTime.toFixed(1)} s`,
  );
  if (wide === LARGE.width && seconds.at(-1)! > 10) failures.push(`time: ${seconds.at(-1)!.toFixed(1)} s`);
  if (seenRecall < 0.95) failures.push(`recall on ${name}`);
  if (precision < 0.9) failures.push(`precision on ${name}`);
}
console.log(
  `fences: recall ${meanOf(pictures.map((p) => p.recall)).toFixed(3)}, precision ${meanOf(pictures.map((p) => p.precision)).toFixed(3)}`,
);
const { hit, wrong, all } = clipsFound;
console.log(`clips: recall ${(hit / all).toFixed(2)}, precision ${(hit / (hit + wrong)).toFixed(2)}`);
console.log(failures.length ? `NOT REACHED: ${failures.join(', ')}` : 'all reached');
process.exitCode = failures.length ? 1 : 0;
