import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode, encode } from 'fast-png';

const folder = mkdtempSync(join(tmpdir(), 'tersum-extend-'));
const path = (name: string) => join(folder, name);
const run = (...args: string[]) =>
  spawnSync(process.execPath, ['dist/cli/tersum.js', 'extend', ...args], {
    encoding: 'utf8',
    env: { ...process.env, TERSUM_MAX_MEGAPIXELS: '1' },
  });

const [WIDTH, HEIGHT] = [300, 200];
/** Px of the backdrop that the picture lacks on the left. */
const LACKS = 100;
let seed = 11;
const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
/** A backdrop in 16 bit whose light falls off from its middle, and a dark block before it. */
const backdrop = Float64Array.from({ length: (WIDTH + LACKS) * HEIGHT }, (_, i) => {
  const [x, y] = [i % (WIDTH + LACKS), Math.floor(i / (WIDTH + LACKS))];
  const r = ((x - 210) / 220) ** 2 + ((y - 100) / 220) ** 2;
  return 38_000 * 2 ** (-1.2 * r) + 900 * (random() - 0.5);
});
const isSubject = (x: number, y: number) => x >= 240 && x < 290 && y >= 60 && y < 190;

beforeAll(() => {
  const data = new Uint16Array(WIDTH * HEIGHT);
  const mask = new Uint8Array(WIDTH * HEIGHT);
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const subject = isSubject(x + LACKS, y);
      data[i] = subject ? 3000 : backdrop[y * (WIDTH + LACKS) + x + LACKS];
      mask[i] = subject ? 255 : 0;
    }
  writeFileSync(path('in.png'), encode({ width: WIDTH, height: HEIGHT, data, channels: 1, depth: 16 }));
  writeFileSync(path('subject.png'), encode({ width: WIDTH, height: HEIGHT, data: mask, channels: 1, depth: 8 }));
});

test('background is added where the subject wants it; the picture keeps every bit, light falls off on', () => {
  const files = ['--picture', path('in.png'), '--subject', path('subject.png'), '--out', path('out.png')];
  const asked = ['--format', '2:1', '--place', 'third-right', '--gaps', path('gaps.png'), '--json', path('out.json')];
  const { status, stderr } = run(...files, ...asked);
  expect(stderr).toBe('');
  expect(status).toBe(0);
  const told = JSON.parse(readFileSync(path('out.json'), 'utf8')) as {
    canvas: { x: number; y: number; width: number; height: number };
    stands: { across: number };
    sum: string;
    seen: unknown[];
  };
  expect(told.canvas).toMatchObject({ x: -LACKS, y: 0, width: 400, height: 200 });
  expect(told.stands.across).toBeCloseTo((LACKS + 165) / 400, 2);
  expect(told.sum).toMatch(/adds 100 px/);
  expect(told.seen).toEqual([]);
  const [source, out, gaps] = ['in.png', 'out.png', 'gaps.png'].map((n) => decode(readFileSync(path(n))));
  expect([out.width, out.height, out.depth]).toEqual([400, 200, 16]);
  let [wrong, added, off] = [0, 0, 0];
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < 400; x++) {
      const value = out.data[y * 400 + x];
      if (x >= LACKS) {
        if (value !== source.data[y * WIDTH + x - LACKS] || gaps.data[y * 400 + x]) wrong++;
        continue;
      }
      if (gaps.data[y * 400 + x]) added++;
      off += Math.abs(value - backdrop[y * 400 + x]) / backdrop[y * 400 + x];
    }
  expect(wrong).toBe(0);
  expect(added).toBe(LACKS * HEIGHT);
  // Its own grain is .6 % of it on average, twice.
  expect(off / added).toBeLessThan(0.03);
});

test('one that has the proportion already is written as it is', () => {
  const told = JSON.parse(
    run('--picture', path('in.png'), '--format', '3:2', '--out', path('same.png')).stdout,
  ) as object;
  expect(told).toMatchObject({ added: 0, filled: null, seen: [] });
  expect(decode(readFileSync(path('same.png'))).data).toEqual(decode(readFileSync(path('in.png'))).data);
});

test('bad input is told in one line', () => {
  const good = ['--picture', path('in.png'), '--format', '1:1', '--out', path('x.png')];
  for (const [args, said] of [
    [['--picture', path('in.png'), '--out', path('x.png')], /--format must be a proportion/],
    [[...good, '--place', 'third-left'], /--place needs --subject/],
    [[...good, '--place', 'top', '--subject', path('subject.png')], /--place must be one of/],
    [[...good, '--tries', '0'], /--tries must be 1, 2 or 3/],
    [[...good, '--gaps', path('gaps.jpg')], /--gaps must end in .png/],
    [['--picture', path('in.png'), '--format', '1:20', '--out', path('x.png')], /at most 1 megapixels are made/],
    [[...good, '--stretch', '1'], /Options: --picture/],
  ] as const) {
    const { status, stderr } = run(...args);
    expect(status).toBe(2);
    expect(stderr.trim().split('\n')).toHaveLength(1);
    expect(stderr).toMatch(said);
  }
});
