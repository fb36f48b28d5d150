import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode, encode } from 'fast-png';

const folder = mkdtempSync(join(tmpdir(), 'tersum-stretch-'));
const path = (name: string) => join(folder, name);
const run = (command: string, ...args: string[]) =>
  spawnSync(process.execPath, ['dist/cli/tersum.js', command, ...args], { encoding: 'utf8' });

const [WIDTH, HEIGHT] = [300, 200];
const isSubject = (x: number, y: number) => x >= 130 && x < 180 && y >= 40 && y < 190;
let seed = 3;
const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;

beforeAll(() => {
  const data = new Uint16Array(WIDTH * HEIGHT);
  const mask = new Uint8Array(WIDTH * HEIGHT);
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      data[i] = isSubject(x, y) ? (i * 977) % 65536 : 30_000 - 40 * x + 900 * (random() - 0.5);
      mask[i] = isSubject(x, y) ? 255 : 0;
    }
  writeFileSync(path('in.png'), encode({ width: WIDTH, height: HEIGHT, data, channels: 1, depth: 16 }));
  writeFileSync(path('guard.png'), encode({ width: WIDTH, height: HEIGHT, data: mask, channels: 1, depth: 8 }));
});

/** Pixels of the subject that differ from the original in a picture that begins at x. */
function differing(file: string, x: number): number {
  const [source, out] = ['in.png', file].map((n) => decode(readFileSync(path(n))));
  let wrong = 0;
  for (let v = 0; v < HEIGHT; v++)
    for (let u = 0; u < WIDTH; u++)
      if (isSubject(u, v) && out.data[v * out.width + u - x] !== source.data[v * WIDTH + u]) wrong++;
  return wrong;
}

test('by inserted seams it grows by as much, and what is guarded keeps every bit', () => {
  const files = ['--picture', path('in.png'), '--guard', path('guard.png'), '--out', path('seams.png')];
  const { status, stdout } = run('stretch', ...files, '--left', '40', '--right', '25', '--way', 'seams');
  expect(status).toBe(0);
  expect(JSON.parse(stdout)).toMatchObject({
    canvas: { x: -40, width: 365 },
    done: expect.stringMatching(/^Seams inserted, 1\.31 times at the left/),
  });
  expect(differing('seams.png', -40)).toBe(0);
});

test('background is drawn out at the left and in at the right; what is guarded keeps every bit', () => {
  const files = ['--picture', path('in.png'), '--guard', path('guard.png'), '--out', path('out.png')];
  const { status, stderr } = run('stretch', ...files, '--left', '90', '--right', '-30', '--json', path('out.json'));
  expect(stderr).toBe('');
  expect(status).toBe(0);
  const told = JSON.parse(readFileSync(path('out.json'), 'utf8')) as {
    canvas: object;
    amounts: Array<{ side: string; times: number }>;
    shows: boolean;
  };
  expect(told.canvas).toEqual({ x: -90, y: 0, width: 360, height: 200 });
  expect(told.amounts.map((a) => [a.side, a.times.toFixed(2)])).toEqual([
    ['left', '1.69'],
    ['right', '0.75'],
  ]);
  expect(told.shows).toBe(true);
  expect(decode(readFileSync(path('out.png')))).toMatchObject({ width: 360, height: 200, depth: 16 });
  expect(differing('out.png', -90)).toBe(0);
});

test('a format is reached by stretching where that is asked for, and by itself where it goes little farther', () => {
  const files = ['--picture', path('in.png'), '--subject', path('guard.png')];
  const to = (format: string, way: string, name: string) => {
    const { stdout, stderr } = run('extend', ...files, '--format', format, '--way', way, '--out', path(name));
    expect(stderr).toBe('');
    return JSON.parse(stdout) as { way: string; canvas: { x: number; width: number }; filled: string };
  };
  const asked = to('2:1', 'stretch', 'two.png');
  expect(asked).toMatchObject({ way: 'stretch', canvas: { width: 400 }, filled: expect.stringContaining('drawn out') });
  expect(differing('two.png', asked.canvas.x)).toBe(0);
  expect(to('1.6:1', 'auto', 'auto.png').way).toBe('stretch');
  expect(to('2:1', 'auto', 'far.png').way).toBe('fill');
});

test.each([
  [['--left', 'ten'], /--left must be a whole number/],
  [[], /Say by how much/],
  [['--left', '20', '--way', 'magic'], /--way must be smooth or seams/],
  [['--left', '-20', '--way', 'seams'], /Seams can only be inserted/],
  [['--left', '-400'], /Nothing would be left/],
])('says what is wrong with %j', (args, message) => {
  const { status, stderr } = run('stretch', '--picture', path('in.png'), '--out', path('bad.png'), ...args);
  expect(status).toBe(2);
  expect(stderr).toMatch(message);
  expect(existsSync(path('bad.png'))).toBe(false);
});
