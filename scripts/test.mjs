// npm test: installs what is missing (packages, Chromium), runs the unit and the interface tests and counts them.
import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { installPackages } from './install.mjs';

installPackages();
const chromium = process.env.CHROMIUM_PATH ?? '/usr/bin/chromium';
if (!existsSync(chromium)) {
  if (process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    console.log('Installing Chromium…');
    execFileSync('apt-get', ['update', '-qq'], { stdio: 'inherit' });
    execFileSync('apt-get', ['install', '-y', '-qq', 'chromium'], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  } else {
    console.error(
      `The interface tests need Chromium at ${chromium}. Install Debian's package “chromium”, or set CHROMIUM_PATH.`,
    );
    process.exit(1);
  }
}
const { buildServer, buildWeb } = await import('./build.mjs');
await buildServer();
await buildWeb();

const folder = mkdtempSync(join(tmpdir(), 'tersum-test-'));
const run = (args, env = {}) =>
  spawnSync(process.execPath, args, { stdio: 'inherit', env: { ...process.env, ...env } }).status ?? 1;

const unitFile = join(folder, 'unit.json');
const unitStatus = run(['node_modules/jest/bin/jest.js', '--json', `--outputFile=${unitFile}`]);
const unit = existsSync(unitFile)
  ? JSON.parse(readFileSync(unitFile, 'utf8'))
  : { numPassedTests: 0, numFailedTests: 1 };

const webFile = join(folder, 'interface.json');
const webStatus = run(['node_modules/@playwright/test/cli.js', 'test', '--reporter=list,json'], {
  PLAYWRIGHT_JSON_OUTPUT_NAME: webFile,
});
const web = existsSync(webFile)
  ? JSON.parse(readFileSync(webFile, 'utf8')).stats
  : { expected: 0, unexpected: 1, flaky: 0 };

const broken =
  (unit.numRuntimeErrorTestSuites ?? 0) +
  (unitStatus && !unit.numFailedTests ? 1 : 0) +
  (webStatus && !web.unexpected ? 1 : 0);
const flaky = web.flaky ?? 0;
if (flaky) console.log(`\n${flaky} flaky: passed only at the second go (named above)`);
const passed = unit.numPassedTests + web.expected + flaky;
const failed = unit.numFailedTests + web.unexpected + broken;
console.log(`\n${passed} passed, ${failed} failed`);
process.exitCode = failed ? 1 : 0;
