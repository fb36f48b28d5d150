// Writes docs/measurements.md from what benches printed (bench/results/*.json) and from what was seen (*.md beside them).
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const RESULTS = 'bench/results';
const ABOUT = `# Measurements

Made by \`npm run measure -- bench:NAME\`, which runs a bench and keeps what it prints; not edited by hand. What was seen, which no bench can
print, stands above the figures. Processor times depend on the machine: what counts are the shares, taken in one run.
`;

/** One bench: its command, when and at which commit it ran, what was seen, what it printed. */
function section(name) {
  const path = (ending) => join(RESULTS, `${name}.${ending}`);
  const { command, date, commit, machine, output } = JSON.parse(readFileSync(path('json'), 'utf8'));
  const seen = existsSync(path('md')) ? `\n${readFileSync(path('md'), 'utf8').trim()}\n` : '';
  const printed = output.length ? `\n\`\`\`\n${output.join('\n')}\n\`\`\`\n` : '';
  return `## ${name}\n\n\`${command}\`, ${date}, at ${commit}${machine ? `, ${machine}` : ''}.\n${seen}${printed}`;
}

export function write() {
  const names = readdirSync(RESULTS)
    .filter((file) => file.endsWith('.json'))
    .map((file) => file.slice(0, -5))
    .sort();
  writeFileSync('docs/measurements.md', [ABOUT, ...names.map(section)].join('\n'));
}

if (process.argv[1] === fileURLToPath(import.meta.url)) write();
