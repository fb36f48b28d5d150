import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode, encode } from 'fast-png';
import { rayOf, seenAt, type Camera } from '../src/core/join/camera.ts';
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
  // How they were taken is found out: places of one are seen in the next to half a px, and how their exposures differ.
  const [two, , zero, one] = told.frames;
  const cameraOf = ({ focal, bend, turn }: Told['frames'][number]): Camera => ({
    width: 640,
    height: 480,
    focal,
    bend,
    turn,
  });
  const [at, really] = [
    [0, 0],
    [0, 0],
  ];
  for (const [found, n] of [
    [zero, 0],
    [two, 2],
  ] as const) {
    let seen = 0;
    for (let y = 5; y < 480; y += 30)
      for (let x = 5; x < 640; x += 30) {
        const [from, to] = [taken.frames[n].camera, taken.frames[1].camera];
        if (!seenAt(to, rayOf(from, x, y), really)) continue;
        if (really[0] < 0 || really[1] < 0 || really[0] > 639 || really[1] > 479) continue;
        expect(seenAt(cameraOf(one), rayOf(cameraOf(found), x, y), at)).toBe(true);
        expect(Math.hypot(at[0] - really[0], at[1] - really[1])).toBeLessThan(0.5);
        seen++;
      }
    expect(seen).toBeGreaterThan(50);
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

test('a frame that is damaged, missing or of another kind is named', () => {
  writeFileSync(path('damaged.png'), readFileSync(path('1.png')).subarray(0, 900));
  writeFileSync(
    path('grey.png'),
    encode({ width: 640, height: 480, channels: 1, data: new Uint8Array(640 * 480).fill(90) }),
  );
  const saidOf = (name: string) => {
    const { status, stderr } = run('--frames', [path('0.png'), path(name)].join(','), '--out', path('no.png'));
    expect(status).toBe(2);
    return stderr;
  };
  expect(saidOf('damaged.png')).toMatch(/--frames: .*damaged\.png: /);
  expect(saidOf('nowhere.png')).toMatch(/--frames .*nowhere\.png cannot be read/);
  expect(saidOf('grey.png')).toMatch(/grey\.png has other channels or another depth than .*0\.png/);
}, 60_000);

test('bad options say what to do', () => {
  expect(run('--frames', path('0.png'), '--out', path('no.png')).stderr).toMatch(/at least two files/);
  const two = ['--frames', [path('0.png'), path('1.png')].join(',')];
  expect(run(...two).stderr).toMatch(/--out is missing/);
  expect(run(...two, '--out', path('no.png'), '--projection', 'round').stderr).toMatch(/flat, cylinder or auto/);
  expect(run(...two, '--out', path('no.png'), '--gaps', 'g.jpg').stderr).toMatch(/--gaps must end in .png/);
});
