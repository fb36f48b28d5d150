// npm run bench:speed [-- --only NAME] : processor time of fills against the commit before covers were laid out, and against a
// general library's diffusion, all in one run.
import { execFileSync } from 'node:child_process';
import { sourceBefore, sourceNow } from './before.ts';
import { inpaint } from './inpaint.ts';
import { SPEED_CASES } from './speed-cases.ts';

const args = process.argv.slice(2);
const only = args.includes('--only') ? args[args.indexOf('--only') + 1] : '';

interface Run {
  cpu: number;
  wall: number;
  megabytes: number;
  sketches?: number[];
}
const run = (root: string, name: string): Run =>
  JSON.parse(execFileSync('npx', ['tsx', 'bench/speed-run.ts', root, name], { encoding: 'utf8' })) as Run;

const failures: string[] = [];
for (const { name, kind, must, aim, references, read } of SPEED_CASES.filter((c) => c.name.includes(only))) {
  // Thin covers take little: by turns three times, the least of each.
  const turns = kind === 'thin' ? 3 : 1;
  const runs = Array.from({ length: turns }, () => [run(sourceNow(), name), run(sourceBefore(), name)]);
  const [now, before] = [0, 1].map((n) => runs.map((r) => r[n]).reduce((a, b) => (b.cpu < a.cpu ? b : a)));
  const share = now.cpu / before.cpu;
  let line = `${name.padEnd(20)} ${now.cpu.toFixed(1)} s of processor time, before ${before.cpu.toFixed(1)} s: ${share.toFixed(3)} (must ${must.toFixed(2)}, aim ${aim.toFixed(2)}); by the clock ${now.wall.toFixed(1)} and ${before.wall.toFixed(1)} s; ${Math.round(now.megabytes)} MB`;
  if (now.sketches?.length) {
    line += `; sketched in ${now.sketches.map((s) => s.toFixed(2)).join(' and ')} s`;
    if (now.sketches[0] > 2) failures.push(`${name}: sketched in ${now.sketches[0].toFixed(1)} s`);
  }
  if (share > must) failures.push(`${name}: ${share.toFixed(2)} of the time before`);
  if (kind === 'wide' && now.megabytes > 1536) failures.push(`${name}: ${Math.round(now.megabytes)} MB`);
  if (references) {
    const { picture, cover } = await read();
    const from = process.cpuUsage();
    inpaint(picture, cover, 'INPAINT_TELEA');
    const { user, system } = process.cpuUsage(from);
    line += `; ${(now.cpu / ((user + system) / 1e6)).toFixed(1)} times the library's diffusion (as WebAssembly)`;
  }
  console.log(line);
}
console.log(failures.length ? `NOT REACHED:\n  ${failures.join('\n  ')}` : 'All figures reached.');
process.exitCode = failures.length ? 1 : 0;
