// The source of the commit that today's fills are measured against, beside ours, so that both run in the same minute on the same machine.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, symlinkSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** Before covers were laid out: a patch search for every wide cover, a prediction of every channel for thin ones. */
export const COMMIT_BEFORE = 'b4eabde';

const OURS = fileURLToPath(new URL('..', import.meta.url));
const FOLDER = join(tmpdir(), `tersum-${COMMIT_BEFORE}/`);

/** Root of that commit's source, taken out of the history once, with our packages and its own kernels. */
export function sourceBefore(): string {
  if (!existsSync(`${FOLDER}src/core/kernels/kernels.gen.ts`)) {
    mkdirSync(FOLDER, { recursive: true });
    const archive = execFileSync('git', ['archive', COMMIT_BEFORE], { cwd: OURS, maxBuffer: 2 ** 28 });
    execFileSync('tar', ['-x', '-C', FOLDER], { input: archive });
    if (!existsSync(`${FOLDER}node_modules`)) symlinkSync(`${OURS}node_modules`, `${FOLDER}node_modules`);
    execFileSync('node', ['scripts/kernels.mjs'], { cwd: FOLDER });
  }
  return FOLDER;
}

/** The source at hand. */
export const sourceNow = (): string => OURS;
