// npm run bench:join : frames cut from ten open photographs with known turns, bending, fall-off and exposures, joined again.
// npm run bench:join -- --large : three frames of 12 megapixels, time and memory.
import { createRequire } from 'node:module';
import { mkdirSync } from 'node:fs';
import { join as pathOf } from 'node:path';
import sharp from 'sharp';
import { placeOf } from '../src/core/check/place.ts';
import { findingsOf } from '../src/core/check/check.ts';
import { seam } from '../src/core/check/checks/seam.ts';
import { toneStep } from '../src/core/check/checks/tone-step.ts';
import { SEEN, type Finding } from '../src/core/check/finding.ts';
import { rayOf, seenAt } from '../src/core/join/camera.ts';
import { join } from '../src/core/join/join.ts';
import { fromLight, toLight } from '../src/core/join/light.ts';
import { directionAt } from '../src/core/join/projection.ts';
import { boxOf, intersect, isEmpty, type Raster } from '../src/core/raster/raster.ts';
import { ciede2000, labOf } from '../src/core/tone/lab.ts';
import { framesOf, type TakenFrames } from './frames-of.ts';
import { CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { PHOTOGRAPHS, photograph, randomiser } from './planted.ts';

// eslint-disable-next-line @typescript-eslint/no-explicit-any -- the package has no usable types for features2d
const cv: any = createRequire(import.meta.url)('@techstark/opencv-js');
await new Promise<void>((resolve) => (cv.Mat ? resolve() : (cv.onRuntimeInitialized = () => resolve())));
const option = (name: string) => {
  const at = process.argv.indexOf(`--${name}`);
  return at < 0 ? undefined : (process.argv[at + 1] ?? '');
};
const look = option('look');
if (look) mkdirSync(look, { recursive: true });

const sources: Array<[string, () => Promise<Raster>]> = [
  ...PHOTOGRAPHS.map((name): [string, () => Promise<Raster>] => [name, () => photograph(name, 2600)]),
  ...CLEAN_MEASURED.filter((p) => /Bridge|Path|picos/.test(p.file + p.name)).map(
    (p): [string, () => Promise<Raster>] => [p.name, () => cleanPhotograph(p, 4)],
  ),
];

/** By how many px places of one frame are seen elsewhere in another than they really are, root mean square over what both show. */
function reprojection({ frames }: TakenFrames, joined: ReturnType<typeof join>): number {
  let [sum, n] = [0, 0];
  const [a, b] = [
    [0, 0],
    [0, 0],
  ];
  for (let i = 0; i < frames.length; i++)
    for (let j = 0; j < frames.length; j++) {
      const [from, to] = [joined.cameras[i], joined.cameras[j]];
      if (i === j || !from || !to) continue;
      const { width, height } = frames[i].raster;
      for (let y = 4; y < height; y += 23)
        for (let x = 4; x < width; x += 23) {
          if (!seenAt(frames[j].camera, rayOf(frames[i].camera, x, y), a)) continue;
          if (a[0] < 0 || a[1] < 0 || a[0] > width - 1 || a[1] > height - 1) continue;
          if (!seenAt(to, rayOf(from, x, y), b)) b.fill(1e3);
          sum += (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2;
          n++;
        }
    }
  return n ? Math.sqrt(sum / n) : NaN;
}

/** The photograph as the canvas would show it, as light as frames are on average: black where that is not known. */
function truthOf(photo: Raster, { frames, focal }: TakenFrames, joined: ReturnType<typeof join>): Raster {
  const { picture, laid, owners } = joined;
  const used = frames.filter((_, n) => joined.cameras[n]);
  const gain = 2 ** (used.reduce((s, f) => s + f.exposure, 0) / used.length);
  const truth: Raster = { ...picture, data: new Uint8Array(picture.data.length) };
  const at = [0, 0];
  const { width, channels } = photo;
  for (let y = 0, i = 0; y < picture.height; y++)
    for (let x = 0; x < picture.width; x++, i++) {
      // By way of the frame that the px is taken from: what lies where is a matter of reprojection.
      const n = owners[i] - 1;
      if (n < 0 || !seenAt(joined.cameras[n]!, directionAt(laid, x + laid.x, y + laid.y), at)) continue;
      const [p, q, r] = rayOf(frames[n].camera, at[0], at[1]);
      const [px, py] = [(focal * p) / r + width / 2 - 0.5, (focal * q) / r + photo.height / 2 - 0.5];
      const [u, v] = [Math.floor(px), Math.floor(py)];
      if (u < 0 || v < 0 || u + 1 >= width || v + 1 >= photo.height) continue;
      const [fx, fy] = [px - u, py - v];
      const colour = [0, 1, 2].map((c) => {
        const light = (dx: number, dy: number) => toLight(photo.data[((v + dy) * width + u + dx) * channels + c] / 255);
        const upper = light(0, 0) * (1 - fx) + light(1, 0) * fx;
        return upper * (1 - fy) + (light(0, 1) * (1 - fx) + light(1, 1) * fx) * fy;
      });
      // What was clipped in its frame cannot be had back.
      if (Math.max(...colour) * 2 ** frames[n].exposure > 0.97) continue;
      for (let c = 0; c < 3; c++)
        truth.data[3 * i + c] = Math.max(1, Math.round(255 * Math.min(1, fromLight(colour[c] * gain))));
    }
  return truth;
}

/** Mean CIEDE2000 between a join and its truth, every seventh px. Means of 3 × 3: frames were sampled once more, which costs fine grain. */
function difference({ picture }: ReturnType<typeof join>, truth: Raster): number {
  const { width, height } = picture;
  const meanAt = ({ data }: Raster, x: number, y: number): number[] | null => {
    const sum = [0, 0, 0];
    for (let v = y - 1; v <= y + 1; v++)
      for (let u = x - 1; u <= x + 1; u++)
        for (let c = 0; c < 3; c++) {
          const value = data[3 * (v * width + u) + c];
          if (!value) return null;
          sum[c] += value / 9;
        }
    return sum;
  };
  let [sum, n] = [0, 0];
  for (let y = 3; y + 1 < height; y += 7)
    for (let x = 3; x + 1 < width; x += 7) {
      const [a, b] = [meanAt(truth, x, y), meanAt(picture, x, y)];
      if (!a || !b) continue;
      sum += ciede2000(labOf(a[0], a[1], a[2]), labOf(b[0], b[1], b[2]));
      n++;
    }
  return sum / n;
}

/** Seams and steps of tone that Check finds along joins. */
function found({ owners, gaps }: ReturnType<typeof join>, after: Raster): Finding[] {
  const frames = [...new Set(owners)].filter((n) => n > 0).sort();
  return frames.slice(1).flatMap((n) => {
    const what = owners.map((v, i) => (gaps[i] ? 2 : v === n ? 1 : 0));
    const place = placeOf({ after }, what, boxOf(after));
    return findingsOf([...seam(place), ...toneStep(place)], Math.max(after.width, after.height));
  });
}

/** How many of them would be seen and are not in the photograph itself along the same lines. */
function seams(joined: ReturnType<typeof join>, truth: Raster): number {
  const own = found(joined, truth);
  return found(joined, joined.picture).filter(
    (f) => f.severity >= SEEN && !own.some((o) => o.kind === f.kind && !isEmpty(intersect(o.box, f.box))),
  ).length;
}

const random = randomiser(Number(option('seed') ?? 3));
const figures: Array<{ error: number; off: number; seams: number; left: number }> = [];
if (process.argv.includes('--large')) {
  const photo = await photograph('nagasaki-boats', 9000);
  const taken = framesOf(photo, random, 3, 4000);
  const from = performance.now();
  let told = 0;
  const joined = join(
    cv,
    taken.frames.map((f) => f.raster),
    { onProgress: () => told++ },
  );
  const seconds = (performance.now() - from) / 1e3;
  const memory = process.resourceUsage().maxRSS / 1e6;
  console.log(
    `three frames of ${((4000 * 3000) / 1e6).toFixed(0)} megapixels: ${seconds.toFixed(0)} s (must 60 on two cores; one is used), ${memory.toFixed(2)} GB at most with the photograph they are from (must 2.5), ${joined.picture.width} × ${joined.picture.height} px, reprojection ${reprojection(taken, joined).toFixed(2)} px, told ${told} times how far`,
  );
  if (seconds > 60 || memory > 2.5) process.exitCode = 1;
} else {
  for (const [name, read] of sources.filter(([n]) => n.includes(option('only') ?? ''))) {
    const photo = await read();
    const taken = framesOf(photo, random);
    const from = performance.now();
    const joined = join(
      cv,
      taken.frames.map((f) => f.raster),
    );
    const seconds = (performance.now() - from) / 1e3;
    const truth = truthOf(photo, taken, joined);
    const figure = {
      error: reprojection(taken, joined),
      off: difference(joined, truth),
      seams: seams(joined, truth),
      left: joined.left.length,
    };
    figures.push(figure);
    console.log(
      `${name.slice(0, 26).padEnd(27)} ${joined.projection} ${joined.picture.width} × ${joined.picture.height}, ${joined.matches} matches${joined.left.length ? `, left out ${joined.left.join()}` : ''}: reprojection ${figure.error.toFixed(2)} px, ΔE00 ${figure.off.toFixed(2)}, ${figure.seams} seams found, fall ${joined.light.fall.map((v) => v.toFixed(2)).join(' ')} (${taken.fall.toFixed(2)}), cuts ${joined.cuts.length}, ${seconds.toFixed(1)} s`,
    );
    if (look) {
      const { width, height, channels } = joined.picture;
      await sharp(Buffer.from(joined.picture.data), { raw: { width, height, channels: channels as 3 } })
        .png()
        .toFile(pathOf(look, `${name.slice(0, 20)}.png`));
    }
  }
  const rms = Math.sqrt(figures.reduce((s, f) => s + f.error ** 2, 0) / figures.length);
  const good = figures.filter((f) => f.error <= 0.7 && f.off <= 2.5 && !f.seams).length;
  console.log(
    `reprojection ${rms.toFixed(2)} px rms over all (must 0.7, aim 0.5), ΔE00 ${(figures.reduce((s, f) => s + f.off, 0) / figures.length).toFixed(2)} (must 2.5, aim 1.5); ${figures.filter((f) => !f.seams).length} of ${figures.length} without a seam that Check finds; all of it in ${good} (must 8); a frame that shares nothing but sky is left out in ${figures.filter((f) => f.left).length}`,
  );
  if (good < 8) process.exitCode = 1;
}
