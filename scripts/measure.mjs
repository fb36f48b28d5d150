// Runs a bench and keeps what it prints, with command, date, commit and machine; then writes docs/measurements.md anew.
// npm run measure -- bench:stroke [arguments]
import { execFileSync, spawn } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { write } from './measurements.mjs';

const RESULTS = 'bench/results';
const [name, ...args] = process.argv.slice(2);
if (!name?.startsWith('bench:')) {
  console.error('Name a bench of package.json, such as bench:stroke.');
  process.exit(2);
}
const git = (...words) => execFileSync('git', words, { encoding: 'utf8' }).trim();
const child = spawn('npm', ['run', '--silent', name, '--', ...args], { stdio: ['inherit', 'pipe', 'inherit'] });
let printed = '';
child.stdout.on('data', (chunk) => {
  process.stdout.write(chunk);
  printed += chunk;
});
const code = await new Promise((resolve) => child.once('exit', resolve));
const record = {
  command: ['npm run', name, ...(args.length ? ['--', ...args] : [])].join(' '),
  date: new Date().toISOString().slice(0, 10),
  commit:
    git('rev-parse', '--short', 'HEAD') + (git('status', '--porcelain', 'src', 'bench/*.ts') ? ' and changes' : ''),
  machine: `${cpus().length} cores`,
  passed: code === 0,
  output: printed.trimEnd().split('\n'),
};
mkdirSync(RESULTS, { recursive: true });
writeFileSync(join(RESULTS, `${name.replace('bench:', '')}.json`), `${JSON.stringify(record, null, 2)}\n`);
write();
process.exit(code ?? 1);
