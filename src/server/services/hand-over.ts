import { Zip, ZipPassThrough } from 'fflate';
import type { ExportFormat } from '../../contract/exports.ts';
import { freeName, safeFileName } from '../../contract/file-names.ts';
import { Refused } from '../../contract/refused.ts';
import { plainName } from '../../contract/shapes.ts';
import type { Job } from '../../contract/studio.ts';
import { recordCsv } from '../../record/csv.ts';
import type { MadeFile } from '../pictures/exports.ts';
import type { Studio } from '../studio.ts';
import type { RunOptions } from '../work/pool.ts';
import { takeIn } from './intake.ts';

/** The job of an id. @throws Refused when there is none */
export async function jobOf({ store }: Pick<Studio, 'store'>, id: string): Promise<Job> {
  const job = (await store.listJobs()).find((j) => j.id === id);
  if (!job) throw new Refused('This job no longer exists.', 404);
  return job;
}

/** The same, with pictures. @throws Refused when there are none */
export async function filledJob(studio: Pick<Studio, 'store'>, id: string): Promise<Job> {
  const job = await jobOf(studio, id);
  if (!job.pictures.length) throw new Refused('This job has no pictures yet.', 409);
  return job;
}

/** A name that no other of the same batch has. */
function unlike(name: string, taken: Set<string>): string {
  const free = freeName(safeFileName(name), (n) => taken.has(n.toLowerCase()));
  taken.add(free.toLowerCase());
  return free;
}

/**
 * Makes a job's files one after another, each with its record.
 * @param each told of every file as soon as it is there
 * @throws Refused with the picture that it is about
 */
async function filesOf(
  { exports }: Pick<Studio, 'exports'>,
  job: Job,
  format: ExportFormat,
  { signal, onProgress }: RunOptions,
  each: (name: string, bytes: Uint8Array, made: MadeFile) => Promise<unknown> | void,
): Promise<number> {
  const taken = new Set<string>();
  for (const [n, picture] of job.pictures.entries()) {
    const part = (done: number) => onProgress?.((n + done) / job.pictures.length);
    let made: MadeFile;
    try {
      made = await exports.make(picture.id, { format, missing: 'refuse' }, { signal, onProgress: part });
    } catch (error) {
      if (error instanceof Refused) throw new Refused(`${picture.name}: ${error.message}`, error.status);
      throw error;
    }
    const name = unlike(made.name, taken);
    await each(name, made.bytes, made);
    if (!made.record) continue;
    await each(`${name}.record.json`, Buffer.from(JSON.stringify(made.record)), made);
    await each(`${name}.record.csv`, Buffer.from(recordCsv(made.record)), made);
  }
  return job.pictures.length;
}

/** All pictures of a job in one zip file, handed on piece by piece. */
export async function zipOf(
  studio: Studio,
  jobId: string,
  format: ExportFormat,
  options: RunOptions,
  write: (part: Uint8Array) => void,
): Promise<void> {
  const job = await filledJob(studio, jobId);
  let failure: Error | null = null;
  const zip = new Zip((error, part) => {
    if (error) failure = error;
    else write(part);
  });
  await filesOf(studio, job, format, options, (name, bytes) => {
    const file = new ZipPassThrough(name);
    zip.add(file);
    file.push(bytes, true);
    if (failure) throw failure;
  });
  zip.end();
}

/** Sends all pictures of a job to its client's letterbox, with a note; then the job is delivered. @returns how many */
export async function send(
  studio: Studio,
  jobId: string,
  { format, note }: { format: ExportFormat; note: string },
  options: RunOptions,
): Promise<number> {
  const { letterbox, store, events } = studio;
  const job = await jobOf(studio, jobId);
  const put: string[] = [];
  const sent = new Set<string>();
  const count = await filesOf(studio, job, format, options, async (name, bytes, { deliveryId }) => {
    put.push(await letterbox.put(job, name, bytes));
    if (deliveryId) sent.add(deliveryId);
  });
  if (note) put.push(await letterbox.put(job, 'note.txt', `${note}\n`));
  // Only what lies there, all of it, is said to have been sent.
  const lying = await letterbox.lying(job, put);
  if (lying < put.length || new Set(put).size < put.length)
    throw new Refused(`Only ${lying} of ${put.length} files lie in the letterbox. Send them again.`, 500);
  await store.markSent([...sent]);
  await store.changeJob(jobId, { delivered: true });
  events.send({ type: 'jobs' });
  return count;
}

/** All pictures of a job, small, on paper. */
export async function contactsOf(
  studio: Studio,
  jobId: string,
  { signal, onProgress }: RunOptions,
): Promise<{ name: string; bytes: Uint8Array }> {
  const { pictures, pool, renderings } = studio;
  const job = await filledJob(studio, jobId);
  const list = [];
  for (const [n, { id, name, openFaults, treatedFaults }] of job.pictures.entries()) {
    await renderings.idle(id);
    const caption = `${name} · ${treatedFaults} treated${openFaults ? `, ${openFaults} open` : ''}`;
    list.push(
      await pictures.use(id, ({ composite, icc }) =>
        pool.run('contact', { picture: composite, icc, caption }, { signal }),
      ),
    );
    onProgress?.((n + 1) / job.pictures.length);
  }
  const { bytes } = await pool.run('contacts', { name: job.name, client: job.client, now: Date.now(), list });
  return { name: `${job.name} contact sheet.pdf`, bytes };
}

/** Takes a file in that waits in the client's letterbox. @returns the picture's id */
export async function takeFromLetterbox(
  studio: Studio,
  jobId: string,
  name: string,
  options: RunOptions,
): Promise<string> {
  const { letterbox, events } = studio;
  const job = await jobOf(studio, jobId);
  const most = studio.limits.megabytes * 1e6;
  const id = await letterbox.take(job, name, (path, bytes) => {
    if (bytes > most)
      throw new Refused(
        `The file has ${(bytes / 1e6).toFixed(0)} MB; at most ${studio.limits.megabytes} MB are taken. Compress it, or raise TERSUM_MAX_MEGABYTES.`,
        413,
      );
    return takeIn(studio, jobId, plainName(255, 'The file has no name.').parse(name), path, options);
  });
  events.send({ type: 'jobs' });
  return id;
}
