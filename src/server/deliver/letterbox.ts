import { randomUUID } from 'node:crypto';
import { constants, mkdirSync } from 'node:fs';
import { access, copyFile, mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { freeName, safeFileName, safeName } from '../../contract/file-names.ts';
import type { Waiting } from '../../contract/hand-over.ts';
import { Refused } from '../../contract/refused.ts';
import type { Job } from '../../contract/studio.ts';
import { saysFull } from '../store/disk.ts';

type Whose = Pick<Job, 'client' | 'name'>;

/**
 * Letterboxes of clients: a folder each in the data folder, with what they sent in `in` and what was sent to them in `out`. It stands
 * for whatever really carries files there and back.
 */
export class Letterbox {
  /** files that are being taken in */
  private readonly taking = new Set<string>();

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

  /**
   * Puts a file there, whole or not at all, and reads it back. What lies there under this name stays.
   * @returns the name it got
   * @throws Refused in words where it cannot be put there
   */
  async put(job: Whose, name: string, bytes: Uint8Array | string): Promise<string> {
    const folder = this.outOf(job);
    return told('The letterbox cannot be written to', async () => {
      await mkdir(folder, { recursive: true });
      const there = new Set((await readdir(folder)).map((n) => n.toLowerCase()));
      const free = freeName(safeFileName(name), (n) => there.has(n.toLowerCase()));
      const path = join(folder, free);
      const part = `${path}.part`;
      const whole = Buffer.from(bytes as Uint8Array);
      try {
        await writeFile(part, whole);
        if (!whole.equals(await readFile(part)))
          throw new Refused(`${free} was not written whole. Send it again.`, 500);
        await rename(part, path);
      } catch (error) {
        await rm(part, { force: true });
        throw error;
      }
      return free;
    });
  }

  /** How many of some files lie in a job's folder. */
  async lying(job: Whose, names: readonly string[]): Promise<number> {
    const there = new Set(await readdir(this.outOf(job)).catch((): string[] => []));
    return names.filter((n) => there.has(n)).length;
  }

  /** Files in a client's folder, as they are named there, and as they can be shown. */
  private async files(job: Whose): Promise<Array<{ raw: Buffer; name: string }>> {
    const folder = join(this.boxOf(job), 'in');
    return told('The letterbox cannot be read', async () => {
      await mkdir(folder, { recursive: true });
      const entries = await readdir(folder, { withFileTypes: true, encoding: 'buffer' });
      const names = new Set<string>();
      return entries
        .filter((e) => e.isFile() && !e.name.toString('latin1').startsWith('.'))
        .map(({ name: raw }) => {
          // A name that is no UTF-8 is shown as it can be read, and found again by that.
          const text = raw.toString('utf8');
          const plain = Buffer.from(text, 'utf8').equals(raw) ? text : raw.toString('latin1');
          const name = freeName(plain, (n) => names.has(n));
          names.add(name);
          return { raw, name };
        });
    });
  }

  /** Files that a client sent, by name. */
  async waiting(job: Whose): Promise<Waiting[]> {
    const folder = join(this.boxOf(job), 'in');
    const sized = (await this.files(job)).map(async ({ raw, name }) => ({
      name,
      bytes: (await stat(within(folder, raw)).catch(() => ({ size: 0 }))).size,
    }));
    return (await Promise.all(sized)).sort((a, b) => a.name.localeCompare(b.name));
  }

  /**
   * Takes a file in that waits, and puts it aside afterwards. Nobody else takes it meanwhile.
   * @throws Refused when there is none of this name, it is being taken in, or it could not be put aside afterwards
   */
  async take<T>(job: Whose, name: string, takeIn: (path: string, bytes: number) => Promise<T>): Promise<T> {
    const folder = join(this.boxOf(job), 'in');
    // Only a name that the folder itself lists is ever opened.
    const found = (await this.files(job)).find((w) => w.name === name);
    if (!found) throw new Refused('This file is no longer in the letterbox.', 404);
    const key = `${folder}/${name}`;
    if (this.taking.has(key)) throw new Refused(`${name} is being taken in already.`, 409);
    this.taking.add(key);
    const aside = join(folder, 'taken');
    try {
      return await told('The letterbox cannot be written to', async () => {
        await mkdir(aside, { recursive: true });
        // Could it not be put aside, it would be offered again, and taken in twice.
        await Promise.all([folder, aside].map((f) => access(f, constants.W_OK)));
        const from = within(folder, found.raw);
        const { size } = await stat(from);
        // Read under a plain name, wherever it lies.
        const path = join(this.root, `.taking-${randomUUID()}`);
        await copyFile(from, path);
        let made: T;
        try {
          made = await takeIn(path, size);
        } finally {
          await rm(path, { force: true });
        }
        const there = new Set(await readdir(aside));
        await rename(
          from,
          join(
            aside,
            freeName(safeFileName(name), (n) => there.has(n)),
          ),
        );
        return made;
      });
    } finally {
      this.taking.delete(key);
    }
  }
}

/** Path of a file in a folder, whatever bytes its name has. */
const within = (folder: string, raw: Buffer): Buffer => Buffer.concat([Buffer.from(`${folder}/`), raw]);

/** Says what a file system refuses in words, without naming places on the server. */
async function told<T>(what: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (error instanceof Refused || !code || saysFull(error)) throw error;
    const why: Record<string, string> = {
      EACCES: 'the server may not',
      EPERM: 'the server may not',
      EROFS: 'its disk is read-only',
      ENOENT: 'its folder is missing',
      ENOTDIR: 'there is a file in the place of its folder',
      ENAMETOOLONG: 'the name is too long',
    };
    if (!why[code]) throw error;
    throw new Refused(`${what}: ${why[code]}. Set that right in the data folder, then try again.`, 500);
  }
}
