// npx tsx bench/train-clips.ts : fits the forest that tells clips and knots on a fence from detail beside it, on photographs
// with planted fences, and says how well forests fitted on the other photographs do on each (leave one out).
import { clipCandidates } from '../src/core/find/strand/clips.ts';
import { lumaPlane } from '../src/core/raster/luma.ts';
import { logitOf } from '../src/core/find/scoring/forest.ts';
import type { TracedStrand } from '../src/core/find/strand/traced-strand.ts';
import { fitForest, saveForest, type Example } from './boost.ts';
import { plantClips, plantFence } from './fence.ts';
import { photograph, PHOTOGRAPHS, randomiser } from './planted.ts';
import { matchSpeck } from './specks.ts';
import { FITTED, TREES } from './training.ts';

const OPTIONS = { ...TREES, trees: 120, least: 3 };
/** Strands as they are planted: half width and spacing in px, tone. The first is the one of `bench/mesh.ts`. */
const FENCES = [
  { half: 2.4, gap: 74, tone: 40 },
  { half: 3.2, gap: 90, tone: 225 },
  { half: 1.8, gap: 52, tone: 70 },
  { half: 4.2, gap: 120, tone: 25 },
  { half: 2.6, gap: 70, tone: 200 },
];

interface Run {
  picture: string;
  total: number;
  rows: Array<Example & { match: number }>;
}
const runs: Run[] = [];
for (const name of FITTED) {
  const random = randomiser(41 + name.length);
  for (const [n, { half, gap, tone }] of FENCES.entries()) {
    const clean = await photograph(name, [1300, 1700, 1100, 1900, 1400][n]);
    const { picture, all } = plantFence(clean, { random, tone, half, gap });
    const clips = plantClips(picture, all, tone, half, random);
    // The strands as tracing gives them, a little off.
    const strands = all.map((line): TracedStrand => {
      const [dx, dy, dw] = [random() - 0.5, random() - 0.5, (random() - 0.5) * 0.8];
      const points = line.filter((_, i) => i % 12 === 0).map(([x, y]): [number, number] => [x + dx, y + dy]);
      const width = 2 * half + dw;
      const blur = 0.8 + (1.1 * points[0][0]) / clean.width;
      return {
        points,
        widths: points.map(() => width),
        width,
        blur,
        contrast: 0,
        length: line.length / 2,
        certainty: 1,
        blurs: [],
        unsure: [],
      };
    });
    const found = clipCandidates({ width: clean.width, height: clean.height, data: lumaPlane(picture) }, strands);
    const rows = found.map(({ find, x }) => {
      const match = matchSpeck(find, clips.owner, clips.list, clean.width);
      return { x, y: match >= 0 ? (1 as const) : (0 as const), weight: 1, match };
    });
    const reached = new Set(rows.map((r) => r.match).filter((m) => m >= 0)).size;
    console.log(`${name.padEnd(26)} fence ${n}: ${found.length} candidates, reach ${reached} of ${clips.list.length}`);
    runs.push({ picture: name, total: clips.list.length, rows });
  }
}
const fit = (without: string | null) =>
  fitForest(
    runs.filter((r) => r.picture !== without).flatMap((r) => r.rows),
    { ...OPTIONS, random: randomiser(3) },
  );
for (const lean of [-0.5, 0, 0.5]) {
  let [hit, wrong, total] = [0, 0, 0];
  for (const name of PHOTOGRAPHS) {
    const forest = fit(name);
    for (const run of runs.filter((r) => r.picture === name)) {
      const found = run.rows.filter((r) => lean + logitOf(forest, r.x) >= 0).map((r) => r.match);
      hit += new Set(found.filter((m) => m >= 0)).size;
      wrong += found.filter((m) => m < 0).length;
      total += run.total;
    }
  }
  console.log(`lean ${lean}: recall ${(hit / total).toFixed(3)}, precision ${(hit / (hit + wrong)).toFixed(3)}`);
}
saveForest(fit(null), 'clips');
