import { mkdirSync } from 'node:fs';
import { mkdir, readdir, rename, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { safeName } from '../../contract/file-names.ts';
import type { Waiting } from '../../contract/hand-over.ts';
import { Refused } from '../../contract/refused.ts';
import type { Job } from '../../contract/studio.ts';

type Whose = Pick<Job, 'client' | 'name'>;

/**
 * Letterboxes of clients: a folder each in the data folder, with what they sent in `in` and what was sent to them in `out`. It stands
 * for whatever really carries files there and back.
 */
export class Letterbox {
  constructor(private readonly root: string) {
    mkdirSync(root, { recursive: true });
  }

  /** Where a client's files lie; what has no client goes by its job. */
  private boxOf({ client, name }: Whose): string {
    return join(this.root, safeName(client || name));
  }

  /** Where files to a client are put. */
  outOf(job: Whose): string {
    return join(this.boxOf(job), 'out', safeName(job.name));
  }

  /** Puts a file there, whole or not at all. */
  async put(job: Whose, name: string, bytes: Uint8Array | string): Promise<void> {
    const folder = this.outOf(job);
    await mkdir(folder, { recursive: true });
    const path = join(folder, safeName(name));
    await writeFile(`${path}.part`, bytes);
    await rename(`${path}.part`, path);
  }

  /** Files that a client sent, by name. */
  async waiting(job: Whose): Promise<Waiting[]> {
    const folder = join(this.boxOf(job), 'in');
    await mkdir(folder, { recursive: true });
    const entries = await readdir(folder, { withFileTypes: true });
    const names = entries.filter((e) => e.isFile() && !e.name.startsWith('.')).map((e) => e.name);
    const files = names.map(async (name) => ({ name, bytes: (await stat(join(folder, name))).size }));
    return (await Promise.all(files)).sort((a, b) => a.name.localeCompare(b.name));
  }

  /** Path of a file that waits. @throws Refused when there is none of this name */
  async pathOf(job: Whose, name: string): Promise<string> {
    // Only a name that the folder itself lists is ever opened.
    const found = (await this.waiting(job)).find((w) => w.name === name);
    if (!found) throw new Refused('This file is no longer in the letterbox.', 404);
    return join(this.boxOf(job), 'in', found.name);
  }

  /** Puts a file that was taken in aside. */
  async taken(job: Whose, name: string): Promise<void> {
    const folder = join(this.boxOf(job), 'in', 'taken');
    await mkdir(folder, { recursive: true });
    await rename(await this.pathOf(job, name), join(folder, name));
  }
}
