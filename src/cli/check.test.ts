import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { encode } from 'fast-png';
import { FINDING_KINDS, type Finding } from '../core/check/finding.ts';

const folder = mkdtempSync(join(tmpdir(), 'tersum-check-'));
const path = (name: string) => join(folder, name);
const run = (...args: string[]) =>
  spawnSync(process.execPath, ['dist/cli/tersum.js', 'check', ...args], { encoding: 'utf8' });

const [WIDTH, HEIGHT] = [320, 240];
const covered = (i: number) => Math.hypot((i % WIDTH) - 160, Math.floor(i / WIDTH) - 120) < 40;
const write = (name: string, of: (i: number) => number, channels: 1 | 3 = 3, width = WIDTH) => {
  const data = new Uint8Array(width * HEIGHT * channels);
  for (let i = 0; i < width * HEIGHT; i++) data.fill(of(i), channels * i, channels * (i + 1));
  writeFileSync(path(name), encode({ width, height: HEIGHT, data, channels }));
};
const ground = (i: number) => 120 + (((i * 2654435761) >>> 9) % 14);
beforeAll(() => {
  write('original.png', (i) => (covered(i) ? 40 : ground(i)));
  write('good.png', ground);
  write('off.png', (i) => ground(i) + (covered(i) ? 30 : 0));
  write('mask.png', (i) => (covered(i) ? 255 : 0), 1);
  write('small.png', () => 0, 1, WIDTH - 8);
});

test('findings are written in the stated shape; a good repair has none', () => {
  const { status } = run('--picture', path('off.png'), '--mask', path('mask.png'), '--json', path('out.json'));
  expect(status).toBe(0);
  const { findings } = JSON.parse(readFileSync(path('out.json'), 'utf8')) as { findings: Finding[] };
  expect(findings.map((f) => f.kind)).toContain('tone-step');
  for (const { kind, box, figure, unit, severity, remedy } of findings) {
    expect(FINDING_KINDS).toContain(kind);
    expect(box.x >= 0 && box.y >= 0 && box.x + box.width <= WIDTH && box.y + box.height <= HEIGHT).toBe(true);
    expect(severity >= 0 && severity <= 1 && Number.isFinite(figure)).toBe(true);
    expect(unit && remedy).toBeTruthy();
  }
  const good = run('--picture', path('good.png'), '--mask', path('mask.png'), '--original', path('original.png'));
  expect(JSON.parse(good.stdout)).toMatchObject({ findings: 0, seen: 0 });
});

test('what is as it was under its cover is unfinished', () => {
  const { stdout } = run(
    '--picture',
    path('original.png'),
    '--mask',
    path('mask.png'),
    '--original',
    path('original.png'),
  );
  const { list } = JSON.parse(stdout) as { list: Finding[] };
  expect(list.find((f) => f.kind === 'unfinished')?.figure).toBe(100);
});

test('bad input is told in one line', () => {
  const { status, stderr } = run('--picture', path('good.png'), '--mask', path('small.png'));
  expect(status).toBe(2);
  expect(stderr).toMatch(/--mask is 312 × 240 px, the picture 320 × 240\. Both must be of one size\./);
  expect(run('--picture', path('good.png'), '--mask', path('mask.png'), '--distance', 'far').stderr).toMatch(
    /length in mm/,
  );
});
