import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode, encode } from 'fast-png';
import { multiplied, transposed } from '../src/core/join/camera.ts';
import { framesOf, type TakenFrames } from './frames-of.ts';
import { photograph, randomiser } from './planted.ts';

const folder = mkdtempSync(join(tmpdir(), 'tersum-join-'));
const path = (name: string) => join(folder, name);
const run = (...args: string[]) =>
  spawnSync(process.execPath, ['dist/cli/tersum.js', 'join', ...args], { encoding: 'utf8' });

interface Told {
  width: number;
  height: number;
  projection: string;
  error: number;
  frames: Array<{ file: string; belongs: boolean; focal: number; bend: number; turn: number[]; exposure: number }>;
  fall: number[];
  left: string[];
  gaps: number;
  whole: { x: number; y: number; width: number; height: number };
}

let taken: TakenFrames;
beforeAll(async () => {
  taken = framesOf(await photograph('march-pastoral', 1500), randomiser(8), 3, 640);
  for (const [n, { raster }] of taken.frames.entries())
    writeFileSync(path(`${n}.png`), encode({ ...raster, data: raster.data as Uint8Array, channels: 3 }));
  const other = await photograph('acanthus-mollis', 640);
  writeFileSync(path('other.png'), encode({ ...other, data: other.data as Uint8Array, channels: 3 }));
}, 60_000);

test('three frames in any order, and one that does not belong', () => {
  const frames = ['2.png', 'other.png', '0.png', '1.png'].map(path);
  const { status, stderr } = run(
    ...['--frames', frames.join(','), '--out', path('out.png'), '--gaps', path('gaps.png'), '--json', path('out.json')],
  );
  expect(stderr).toBe('');
  expect(status).toBe(0);
  const told = JSON.parse(readFileSync(path('out.json'), 'utf8')) as Told;
  expect(told.left).toEqual([path('other.png')]);
  expect(told.error).toBeLessThan(0.7);
  // How they were taken is found out: turns to a twentieth of a degree, and how their exposures differ.
  const [two, , zero, one] = told.frames;
  for (const [found, n] of [
    [zero, 0],
    [two, 2],
  ] as const) {
    const between = multiplied(found.turn, transposed(one.turn));
    const really = multiplied(taken.frames[n].camera.turn, transposed(taken.frames[1].camera.turn));
    const off = multiplied(between, transposed(really));
    const degrees = (Math.acos(Math.min(1, (off[0] + off[4] + off[8] - 1) / 2)) * 180) / Math.PI;
    expect(degrees).toBeLessThan(0.15);
    expect(Math.abs(found.exposure - one.exposure - taken.frames[n].exposure + taken.frames[1].exposure)).toBeLessThan(
      0.06,
    );
  }
  expect(Math.abs(told.fall[0] + told.fall[1] - taken.fall)).toBeLessThan(0.15);
  expect(Math.abs(one.focal / taken.frames[1].camera.focal - 1)).toBeLessThan(0.05);

  const picture = decode(readFileSync(path('out.png')));
  const gaps = decode(readFileSync(path('gaps.png')));
  expect([picture.width, picture.height]).toEqual([told.width, told.height]);
  expect([gaps.width, gaps.height]).toEqual([told.width, told.height]);
  expect(Array.from(gaps.data).filter(Boolean).length).toBe(told.gaps);
  const { x, y, width, height } = told.whole;
  expect(width * height).toBeGreaterThan(0.5 * told.width * told.height);
  for (let v = y; v < y + height; v++)
    for (let u = x; u < x + width; u++)
      if (gaps.data[v * told.width + u]) throw new Error('a gap within the whole part');
}, 120_000);

test('frames that show nothing of the same are refused in a sentence', () => {
  const { status, stderr } = run('--frames', [path('0.png'), path('other.png')].join(','), '--out', path('no.png'));
  expect(status).toBe(2);
  expect(stderr).toMatch(/show nothing of the same/);
}, 60_000);

test('bad options say what to do', () => {
  expect(run('--frames', path('0.png'), '--out', path('no.png')).stderr).toMatch(/at least two files/);
  const two = ['--frames', [path('0.png'), path('1.png')].join(',')];
  expect(run(...two).stderr).toMatch(/--out is missing/);
  expect(run(...two, '--out', path('no.png'), '--projection', 'round').stderr).toMatch(/flat, cylinder or auto/);
  expect(run(...two, '--out', path('no.png'), '--gaps', 'g.jpg').stderr).toMatch(/--gaps must end in .png/);
});
