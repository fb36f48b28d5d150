// npm run bench:check [-- --unseen] [-- --only KIND] [--bad] [--controls N] [--look DIR] : defects of known kind and place, planted at three strengths on open
// photographs (@stdlib and Debian's packages), and clean controls: the untouched photograph under the same covers, and good fills.
// Thresholds were chosen on the photographs that are taken by default; --unseen takes sixteen others, with other chances, on which nothing was chosen.
// What is clearly visible is told from the photograph alone: how much stronger the defect is than what the ground does by itself.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { checkPicture } from '../src/core/check/check.ts';
import { FINDING_KINDS, SEEN, type Finding, type FindingKind } from '../src/core/check/finding.ts';
import { crop, type Box, type Raster } from '../src/core/raster/raster.ts';
import { CLEAN_FITTED, CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { photograph, PHOTOGRAPHS, randomiser } from './planted.ts';
import { goodFills, sheetOfFills } from './good-fills.ts';
import { controlCover, plant, type Defect } from './check-planting.ts';

const args = process.argv.slice(2);
const optionOf = (name: string) => (args.includes(name) ? args[args.indexOf(name) + 1] : undefined);
const only = optionOf('--only') as FindingKind | undefined;
const look = optionOf('--look');
/** `0/2`: every second photograph, from the first on, so that two processes share them. */
const [part, parts] = (optionOf('--part') ?? '0/1').split('/').map(Number);
const controls = Number(optionOf('--controls') ?? 12);
if (look) mkdirSync(look, { recursive: true });

const photographs: Array<[string, Raster]> = [];
const unseen = args.includes('--unseen');
if (!unseen) for (const name of PHOTOGRAPHS) photographs.push([name, await photograph(name)]);
for (const clean of unseen ? CLEAN_FITTED.slice(0, 16) : CLEAN_MEASURED.slice(0, 10))
  photographs.push([clean.file, await cleanPhotograph(clean, 2)]);

async function save(name: string, after: Raster, { x, y, width, height }: Box): Promise<void> {
  const [left, top] = [Math.max(0, x - 90), Math.max(0, y - 90)];
  const box = {
    left,
    top,
    width: Math.min(after.width - left, width + 180),
    height: Math.min(after.height - top, height + 180),
  };
  const raw = { width: after.width, height: after.height, channels: 3 as const };
  await sharp(after.data as Uint8Array, { raw })
    .extract(box)
    .png()
    .toFile(join(look!, `${name}.png`));
}
const meets = (a: Box, b: Box) =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

/** A part of a photograph, by chance. */
function tileOf(picture: Raster, random: () => number): Raster {
  const [width, height] = [Math.min(560, picture.width), Math.min(520, picture.height)];
  const x = Math.floor(random() * (picture.width - width));
  const y = Math.floor(random() * (picture.height - height));
  return crop(picture, { x, y, width, height });
}

interface Row {
  kind: FindingKind;
  strength: number;
  clear: boolean;
  found: boolean;
  seen: boolean;
}
const rows: Row[] = [];
let spent = 0;
let checked = 0;
const run = (after: Raster, cover: Uint8Array, before?: Raster): Finding[] => {
  const from = performance.now();
  const findings = checkPicture({ after, ...(before && { before }) }, cover, { longSide: 1600 });
  spent += performance.now() - from;
  checked++;
  return findings;
};

const shared = [...photographs.entries()].filter(([p]) => p % parts === part);
for (const [p, [name, truth]] of shared)
  for (const kind of FINDING_KINDS) {
    if (only && kind !== only) continue;
    for (const strength of [1, 2, 3] as const)
      for (const turn of [0, 1]) {
        const random = randomiser(
          (unseen ? 500_000 : 0) + 1000 * p + 100 * FINDING_KINDS.indexOf(kind) + 10 * strength + turn + 1,
        );
        const defect: Defect | null = plant(kind, tileOf(truth, random), strength, random);
        if (!defect) continue;
        const findings = run(defect.after, defect.cover, turn || kind === 'unfinished' ? defect.before : undefined);
        const told = findings.filter((f) => f.kind === kind && meets(f.box, defect.box));
        rows.push({
          kind,
          strength,
          clear: defect.clear,
          found: told.length > 0,
          seen: told.some((f) => f.severity >= SEEN),
        });
        if (!told.length && defect.clear && args.includes('--bad')) {
          const others = findings.map((f) => `${f.kind} ${f.figure} ${f.severity}`).join(', ');
          console.log(`  missed: ${kind} ${strength} on ${name}: ${JSON.stringify(defect.box)} ${others}`);
          if (look) await save(`missed-${kind}-${strength}-${p}-${turn}`, defect.after, defect.box);
        }
      }
  }

let places = 0;
const falses = new Map<FindingKind, number>();
let seenFalses = 0;
if (!only || args.includes('--controls'))
  for (const [p, [name, truth]] of shared)
    for (let n = 0; n < controls; n++) {
      const random = randomiser((unseen ? 900_000 : 0) + 77 + 100 * p + n);
      const tile = tileOf(truth, random);
      const cover = controlCover(tile, n, random);
      places++;
      for (const f of run(tile, cover)) {
        falses.set(f.kind, (falses.get(f.kind) ?? 0) + 1);
        if (f.severity >= SEEN) seenFalses++;
        if (!args.includes('--bad')) continue;
        console.log(
          `  false: ${f.kind} ${f.figure} ${f.unit}, ${f.severity} on ${name}, control ${n}: ${JSON.stringify(f.box)}`,
        );
        if (look) await save(`false-${f.kind}-${p}-${n}`, tile, f.box);
      }
    }

// Fills that nobody could tell from the photograph.
if (!only || args.includes('--controls')) {
  const list = photographs.map(([, picture]) => picture);
  const sheet = optionOf('--sheet');
  if (sheet) await sheetOfFills(list, sheet);
  for (const { before, after, cover } of unseen || part ? [] : goodFills(list)) {
    places++;
    for (const f of run(after, cover, before)) {
      falses.set(f.kind, (falses.get(f.kind) ?? 0) + 1);
      if (f.severity >= SEEN) seenFalses++;
      if (args.includes('--bad')) console.log(`  false: ${f.kind} ${f.figure} ${f.unit}, ${f.severity} on a good fill`);
    }
  }
}

const share = (list: Row[], test: (r: Row) => boolean) =>
  list.length ? `${((100 * list.filter(test).length) / list.length).toFixed(0).padStart(3)} %` : '   –';
console.log('kind          clear   found   would be seen   faint ones found');
const failures: string[] = [];
for (const kind of FINDING_KINDS) {
  const own = rows.filter((r) => r.kind === kind);
  const clear = own.filter((r) => r.clear);
  const faint = own.filter((r) => !r.clear);
  if (!own.length) continue;
  console.log(
    `${kind.padEnd(12)} ${String(clear.length).padStart(5)}   ${share(clear, (r) => r.found)}   ${share(clear, (r) => r.seen).padStart(10)}   ${share(faint, (r) => r.found).padStart(14)} of ${faint.length}`,
  );
  if (clear.filter((r) => r.found).length < 0.9 * clear.length) failures.push(kind);
}
const total = [...falses.values()].reduce((a, b) => a + b, 0);
console.log(
  `${places} clean controls (photographs, and good fills): ${total} false findings (${seenFalses} of them would be seen): ${[...falses].map(([k, n]) => `${n} ${k}`).join(', ')}`,
);
console.log(`${(spent / checked).toFixed(0)} ms a place`);
if (places && total > places / 4) failures.push('false findings');
console.log(failures.length ? `NOT REACHED: ${failures.join(', ')}` : 'all reached');
process.exitCode = failures.length ? 1 : 0;
