import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode, encode } from 'fast-png';
import { z } from 'zod';
import { findSchema } from '../contract/survey.ts';

const folder = mkdtempSync(join(tmpdir(), 'tersum-cli-'));
const path = (name: string) => join(folder, name);
const run = (...args: string[]) => {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['dist/cli/tersum.js', ...args], { encoding: 'utf8' });
  return { status, stderr, json: status === 0 ? (JSON.parse(stdout) as Record<string, number>) : {} };
};

const [WIDTH, HEIGHT] = [600, 400];
const wire = (x: number) => 120 + (40 * 4 * x * (WIDTH - x)) / WIDTH ** 2;
beforeAll(() => {
  const data = new Uint8Array(WIDTH * HEIGHT * 3);
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    const speck = Math.hypot(x - 450, y - 320) < 6 || Math.hypot(x - 90, y - 300) < 4;
    const v = speck
      ? 252
      : Math.abs(y - wire(x)) < 2.5
        ? 30
        : 140 + 20 * Math.sin(x / 70) + (((i * 2654435761) >>> 9) % 7);
    data.set([v, v + (speck ? 0 : 3), v - (speck ? 0 : 15)], i * 3);
  }
  writeFileSync(path('in.png'), encode({ width: WIDTH, height: HEIGHT, data, channels: 3 }));
});

test('survey writes what it found in the stated shape, and a mask of it', () => {
  const { json } = run('survey', '--picture', path('in.png'), '--json', path('out.json'), '--mask', path('out.png'));
  const finds = z
    .array(findSchema.omit({ id: true, rejected: true }))
    .parse(JSON.parse(readFileSync(path('out.json'), 'utf8')));
  expect(json.found).toBe(finds.length);
  const at = (x: number, y: number) =>
    finds.find(
      (f) =>
        x >= f.box.x && y >= f.box.y && x <= f.box.x + f.box.width && y <= f.box.y + f.box.height && f.kind === 'speck',
    );
  expect(Math.abs(at(450, 320)!.width - 12)).toBeLessThan(2);
  expect(at(90, 300)).toBeDefined();
  expect(finds.some((f) => f.kind === 'strand' && f.length > 500)).toBe(true);
  const mask = decode(readFileSync(path('out.png')));
  expect([mask.width, mask.height, mask.channels]).toEqual([WIDTH, HEIGHT, 1]);
  expect([mask.data[320 * WIDTH + 450], mask.data[10 * WIDTH + 10]]).toEqual([255, 0]);
});

test('only the kinds asked for are looked for; a lower sensitivity finds no more', () => {
  const only = run('survey', '--picture', path('in.png'), '--kinds', 'specks');
  expect(Object.keys(only.json.counts)).toEqual(['speck']);
  const strict = run('survey', '--picture', path('in.png'), '--kinds', 'specks', '--sensitivity', '0.1');
  expect(strict.json.found).toBeLessThanOrEqual(only.json.found);
});

test('trace covers the wire from end to end: path, width at each point, mask', () => {
  const points = `20,${wire(20).toFixed(0)}:580,${wire(580).toFixed(0)}`;
  const { json } = run(
    'trace',
    '--picture',
    path('in.png'),
    '--points',
    points,
    '--json',
    path('t.json'),
    '--mask',
    path('t.png'),
  );
  expect(Math.abs(json.width - 5)).toBeLessThan(1);
  const { path: line } = JSON.parse(readFileSync(path('t.json'), 'utf8')) as {
    path: Array<{ x: number; y: number; width: number }>;
  };
  const off = line.map((p) => Math.abs(p.y - wire(p.x)));
  expect(off.reduce((a, b) => a + b) / off.length).toBeLessThan(0.8);
  const mask = decode(readFileSync(path('t.png')));
  let [both, mine, truth] = [0, 0, 0];
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 26; x < 574; x++) {
      const inside = Math.abs(y - wire(x)) < 2.5;
      const marked = mask.data[y * WIDTH + x] > 0;
      if (inside) truth++;
      if (marked) mine++;
      if (inside && marked) both++;
    }
  expect(both / truth).toBeGreaterThan(0.97);
  expect(both / mine).toBeGreaterThan(0.75);
});

test.each([
  [['survey'], /--picture is missing/],
  [['survey', '--picture', 'IN', '--sensitivity', '3'], /--sensitivity must be a number from 0 to 1/],
  [['survey', '--picture', 'IN', '--kinds', 'ghosts'], /there is no “ghosts”/],
  [['survey', '--picture', 'IN', '--mask', 'x.jpg'], /--mask must end in \.png/],
  [['survey', '--picture', 'IN', '--shiny', '1'], /Options: --picture/],
  [['trace', '--picture', 'IN', '--points', '5,5'], /at least two points/],
  [['trace', '--picture', 'IN', '--points', '5,5:9999,5'], /9999,5 lies outside the picture of 600 × 400 px/],
  [['trace', '--picture', 'IN', '--points', '5,5:6,5'], /at least 6 px apart/],
  [['mesh', '--picture', 'IN', '--strands', '5,5:90,90'], /--mask is missing/],
  [['mesh', '--picture', 'IN', '--strands', '5,50:300,150', '--mask', 'm.png'], /two neighbouring strands/],
  [['import', '--job', 'x'], /Name at least one file/],
  [['import', '--job', 'x', '--server', 'http://127.0.0.1:9', 'package.json'], /No studio answers/],
  [['dance'], /Say what to do/],
])('%j is refused in one line with exit status 2', (args, message) => {
  const { status, stderr } = run(...args.map((a) => (a === 'IN' ? path('in.png') : a)));
  expect(status).toBe(2);
  expect(stderr).toMatch(message);
  expect(stderr.trim().split('\n')).toHaveLength(1);
});
