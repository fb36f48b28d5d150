import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode, encode } from 'fast-png';

const folder = mkdtempSync(join(tmpdir(), 'tersum-level-'));
const path = (name: string) => join(folder, name);
const run = (...args: string[]) =>
  spawnSync(process.execPath, ['dist/cli/tersum.js', 'level', ...args], { encoding: 'utf8' });

const [WIDTH, HEIGHT] = [480, 320];
let seed = 7;
const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
const slope = Math.tan((2 * Math.PI) / 180);
beforeAll(() => {
  const data = new Uint16Array(WIDTH * HEIGHT);
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const below = y - 170 - (x - 240) * slope;
      data[i] = 30_000 - 12_000 / (1 + Math.exp(-below)) + 700 * random();
    }
  writeFileSync(path('sea.png'), encode({ width: WIDTH, height: HEIGHT, data, channels: 1, depth: 16 }));
  const grain = data.map(() => 20_000 + 4000 * random());
  writeFileSync(path('grain.png'), encode({ width: WIDTH, height: HEIGHT, data: grain, channels: 1, depth: 16 }));
});

test('a horizon is found, and the picture written level, at its depth and without an empty corner', () => {
  const { status } = run('--picture', path('sea.png'), '--out', path('out.png'), '--json', path('out.json'));
  expect(status).toBe(0);
  const told = JSON.parse(readFileSync(path('out.json'), 'utf8')) as {
    degrees: number;
    certain: boolean;
    kept: { width: number; height: number };
  };
  expect(told.degrees).toBeCloseTo(2, 1);
  expect(told.certain).toBe(true);
  const out = decode(readFileSync(path('out.png')));
  expect([out.width, out.height, out.depth]).toEqual([told.kept.width, told.kept.height, 16]);
  const horizon = (x: number) => {
    const column = Array.from({ length: out.height }, (_, y) => out.data[y * out.width + x]);
    return column.findIndex((v) => v < 24_000);
  };
  expect(Math.abs(horizon(5) - horizon(out.width - 6))).toBeLessThanOrEqual(1);
});

test('where nothing is level it says so and leaves every sample; a line that is given is gone by', () => {
  const told = JSON.parse(run('--picture', path('grain.png'), '--out', path('same.png')).stdout) as {
    certain: boolean;
    turned: number;
  };
  expect(told).toMatchObject({ certain: false, turned: 0 });
  expect(decode(readFileSync(path('same.png'))).data).toEqual(decode(readFileSync(path('grain.png'))).data);
  const line = JSON.parse(run('--picture', path('grain.png'), '--line', '0,100:400,100').stdout) as { turned: number };
  expect(line).toMatchObject({ degrees: 0, certain: true, from: 'the line' });
});

test('bad input is told in one line', () => {
  for (const args of [
    [],
    ['--picture', path('none.png')],
    ['--picture', path('sea.png'), '--line', '1,2'],
    ['--picture', path('sea.png'), '--line', '4,4:4,4'],
    ['--picture', path('sea.png'), '--out', path('x.gif')],
  ]) {
    const { status, stderr } = run(...args);
    expect(status).toBe(2);
    expect(stderr.trim().split('\n')).toHaveLength(1);
  }
});
