// npm run bench:find, or npx tsx bench/find.ts SEED : how well strands are traced, on photographs with planted strands of
// known truth.
import { coverOf, meanOf, NOTICED, photograph, PHOTOGRAPHS, randomiser } from './planted.ts';
import { lumaPlane } from '../src/core/raster/luma.ts';
import { strandCover } from '../src/core/find/strand/strand-cover.ts';
import { traceStrand } from '../src/core/find/strand/strand.ts';
import type { Point } from '../src/core/mask/shapes.ts';
import type { Raster } from '../src/core/raster/raster.ts';

type Line = (t: number) => Point;

/** Share of a pixel from which on a strand shows in it: a cover has to take in all of that, or a ghost stays. */
const SHOWS = 0.1;

/** Paints a strand with exact edges softened over 1 px, or by `blur`; returns the pixels in which it shows. */
function plant(picture: Raster, line: Line, width: number, blur: number, tone: number, strength: number): Uint8Array {
  const truth = new Uint8Array(picture.width * picture.height);
  const places = Math.max(1200, Math.ceil(1.2 * Math.hypot(line(1)[0] - line(0)[0], line(1)[1] - line(0)[1])));
  const points = Array.from({ length: places + 1 }, (_, i) => line(i / places));
  const nearest = new Map<number, number>();
  const reach = Math.ceil(width / 2 + 3 * blur + 2);
  for (const [x, y] of points) {
    for (let v = Math.floor(y) - reach; v <= y + reach; v++) {
      for (let u = Math.floor(x) - reach; u <= x + reach; u++) {
        if (u < 0 || v < 0 || u >= picture.width || v >= picture.height) continue;
        const i = v * picture.width + u;
        const d = Math.hypot(u + 0.5 - x, v + 0.5 - y);
        if (d < (nearest.get(i) ?? Infinity)) nearest.set(i, d);
      }
    }
  }
  const edge = Math.max(0.5, blur * 1.5);
  for (const [i, d] of nearest) {
    const share = Math.min(1, Math.max(0, 0.5 + (width / 2 - d) / (2 * edge)));
    const soft = share * share * (3 - 2 * share);
    if (soft >= SHOWS) truth[i] = 1;
    for (let c = 0; c < 3; c++) {
      const p = i * 3 + c;
      picture.data[p] = Math.round(picture.data[p] + (tone - picture.data[p]) * strength * soft);
    }
  }
  return truth;
}

/** Share of a strand's length along which it will differ from its ground enough to be seen. */
function visibleShare(picture: Raster, line: Line, across: number, tone: number, strength: number): number {
  const luma = lumaPlane(picture);
  const at = (x: number, y: number) =>
    luma[
      Math.min(picture.height - 1, Math.max(0, Math.floor(y))) * picture.width +
        Math.min(picture.width - 1, Math.max(0, Math.floor(x)))
    ];
  const beside = across / 2 + 2;
  let n = 0;
  for (let i = 0; i <= 400; i++) {
    const [x, y] = line(i / 400);
    const ground = (at(x, y - beside) + at(x, y) + at(x, y + beside)) / 3;
    if (Math.abs(tone - ground) * strength >= NOTICED) n++;
  }
  return n / 401;
}

const distanceTo = (line: Point[], [x, y]: Point): number => {
  let best = Infinity;
  for (let i = 1; i < line.length; i++) {
    const [a, b] = [line[i - 1], line[i]];
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const t = Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / (dx * dx + dy * dy || 1)));
    best = Math.min(best, Math.hypot(x - a[0] - t * dx, y - a[1] - t * dy));
  }
  return best;
};

const failures: string[] = [];

interface Traced {
  seen: boolean;
  off: number;
  width: number;
  recall: number;
  precision: number;
  ms: number;
  ok: boolean;
}

/** Plants a strand of some size in a photograph, traces it from both ends and compares. */
function trace(picture: Raster, name: string, k: number, strength: number, random: () => number, size = 1): Traced {
  const { width: w, height: h } = picture;
  const a: Point = [20 + random() * w * 0.2, h * (0.1 + 0.7 * random())];
  const b: Point = [w * (0.75 + 0.2 * random()), Math.min(h - 60, Math.max(20, a[1] + (random() - 0.5) * h * 0.3))];
  const sag = h * 0.08 * random();
  const line: Line = (t) => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t + sag * 4 * t * (1 - t)];
  const across = size * (2.5 + 6 * random());
  const blur = k % 3 === 2 ? 1.5 + random() : 0;
  const tone = k % 2 ? 238 : 18;
  const visible = visibleShare(picture, line, across, tone, strength);
  const truth = plant(picture, line, across, blur, tone, strength);
  const clicks: Point[] = [line(0), line(1)].map(([x, y]) => [x + random() * 2 - 1, y + random() * 2 - 1]);
  const t = performance.now();
  const found = traceStrand(picture, clicks);
  const ms = performance.now() - t;
  const centre = Array.from({ length: 401 }, (_, i) => line(i / 400));
  const off = found.points.reduce((s, p) => s + distanceTo(centre, p), 0) / found.points.length;
  const cover = coverOf(strandCover(found), w, h);
  let [both, mine, all] = [0, 0, 0];
  for (let i = 0; i < cover.length; i++) {
    const x = i % w;
    if (x < a[0] + 6 || x > b[0] - 6) continue;
    if (cover[i]) mine++;
    if (truth[i]) all++;
    if (cover[i] && truth[i]) both++;
  }
  const error = Math.abs(found.width - across);
  const recall = both / all;
  const precision = both / mine;
  if (process.env.V)
    console.log(
      `${name.slice(0, 12)} ${k} at ${strength}: off ${off.toFixed(2)}, width ${found.width.toFixed(1)} of ${across.toFixed(1)}, recall ${recall.toFixed(3)}, precision ${precision.toFixed(3)}, seen ${visible.toFixed(2)}, ${ms.toFixed(0)} ms for ${found.length.toFixed(0)} px`,
    );
  const ok = off < 1 && (error < 1 || error < 0.15 * across) && recall >= 0.99 && precision >= 0.75;
  return { seen: visible >= 0.75, off, width: error, recall, precision, ms, ok };
}

/** Prints what was reached by some strands, and notes what was not. */
function report(what: string, rows: Traced[]): void {
  const seen = rows.filter((r) => r.seen);
  for (const [list, name] of [
    [rows, 'all'],
    [seen, `the ${seen.length} that can be seen along three quarters of their length`],
  ] as const) {
    const mean = (key: 'off' | 'width' | 'recall' | 'precision' | 'ms') => meanOf(list.map((r) => r[key]));
    const middle = [...list].sort((p, q) => p.off - q.off)[list.length >> 1].off;
    console.log(
      `strands ${what}, ${name}: off centre ${mean('off').toFixed(2)} px (median ${middle.toFixed(2)}), width off ${mean('width').toFixed(2)} px, ` +
        `recall ${mean('recall').toFixed(3)}, precision ${mean('precision').toFixed(3)}, ${mean('ms').toFixed(0)} ms, all aims met on ${list.filter((r) => r.ok).length} of ${list.length}`,
    );
    if (list !== seen) continue;
    if (mean('off') >= 1) failures.push(`centre ${what}`);
    if (mean('recall') < 0.99) failures.push(`recall ${what}`);
    if (mean('precision') < 0.75) failures.push(`precision ${what}`);
    if (mean('ms') >= 300) failures.push(`time ${what}`);
  }
}

const seed = Number(process.argv[2] ?? 11);
const random = randomiser(seed);
for (const strength of [1, 0.6, 0.35]) {
  const rows: Traced[] = [];
  for (const name of PHOTOGRAPHS)
    for (let k = 0; k < 6; k++) rows.push(trace(await photograph(name), name, k, strength, random));
  report(`at contrast ${strength}`, rows);
}
// As large as a camera's pictures, with strands as wide as they are there.
const large: Traced[] = [];
const later = randomiser(seed + 1);
for (const name of PHOTOGRAPHS) {
  const own = await photograph(name);
  const wide = Math.round(own.width * Math.sqrt(14e6 / (own.width * own.height)));
  for (let k = 0; k < 3; k++) large.push(trace(await photograph(name, wide), name, k, 0.6, later, 2));
}
report('on 14 megapixels at contrast 0.6', large);
console.log(failures.length ? `NOT REACHED: ${failures.join(', ')}` : 'all reached');
process.exitCode = failures.length ? 1 : 0;
