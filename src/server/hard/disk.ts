import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, statfsSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { TestServer } from '../../../e2e/server.ts';
import type { PictureState } from '../../contract/api.ts';
import type { Job } from '../../contract/studio.ts';
import { checkStoreFile } from '../store/upkeep.ts';
import { count, newReport, type Report } from './report.ts';
import { grain } from './work.ts';

/** A small disk of its own in memory; null where none may be made. */
function smallDisk(megabytes: number): { folder: string; remove(): void } | null {
  const folder = mkdtempSync(join(tmpdir(), 'tersum-disk-'));
  const made = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${megabytes}m`, 'tmpfs', folder]);
  if (made.status !== 0) return null;
  return { folder, remove: () => void spawnSync('umount', ['-l', folder]) };
}

const freeMb = (folder: string) => {
  const { bavail, bsize } = statfsSync(folder);
  return (bavail * bsize) / 1e6;
};

/** A disk that runs full under imports and edits: it is said plainly, nothing answered is lost, deleting gives the room back. */
export async function fullDisk(megabytes = 90): Promise<Report> {
  const report = newReport('full disk');
  const disk = smallDisk(megabytes);
  if (!disk) {
    report.counts['not tried: no small disk can be made here'] = 1;
    return report;
  }
  const server = new TestServer(disk.folder);
  try {
    await server.start();
    const plain = /^The disk is full: \d+ MB free, \d+ MB needed/;
    const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Full' });
    const pictures: string[] = [];
    let refusal = '';
    for (let n = 0; n < 60 && !refusal; n++)
      await server.json<{ id: string }>(`/jobs/${job}/pictures?name=${n}.png`, 'POST', grain(1100, 900, n)).then(
        ({ id }) => pictures.push(id),
        (e: Error) => (refusal = e.message),
      );
    count(report, `${pictures.length} pictures until it was full`);
    if (!plain.test(refusal)) report.problems.push(`an import on a full disk says: ${refusal}`);
    // Edits go on until there is no room for them either.
    const [first] = pictures;
    let edits = 0;
    let edited = '';
    const shapes = Array.from({ length: 900 }, (_, n) => ({
      op: 'add',
      kind: 'box',
      x: n * 1.01,
      y: n / 1.7,
      width: n / 3.3,
      height: 3,
    }));
    for (let n = 0; n < 4000 && !edited; n++)
      await server.json(`/pictures/${first}/edits`, 'POST', { type: 'addFault', kind: 'object', shapes: shapes.map((s) => ({ ...s, x: s.x + n / 7 })) }).then(
        () => edits++,
        (e: Error) => (edited = e.message),
      ); // prettier-ignore
    count(report, `${edits} edits until it was full`);
    if (!plain.test(edited)) report.problems.push(`an edit on a full disk says: ${edited}`);
    const { document } = await server.json<PictureState>(`/pictures/${first}`);
    if (document.faults.length !== edits)
      report.problems.push(`${edits} edits were answered, ${document.faults.length} are there`);
    const before = freeMb(disk.folder);
    for (const id of pictures.slice(1)) await server.json(`/pictures/${id}`, 'DELETE');
    const after = freeMb(disk.folder);
    count(report, `${Math.round(after - before)} MB came back`);
    if (after - before < pictures.length * 1.5)
      report.problems.push(`only ${Math.round(after - before)} MB came back from ${pictures.length - 1} pictures`);
    await server.json<{ id: string }>(`/jobs/${job}/pictures?name=again.png`, 'POST', grain(1100, 900, 99));
    await server.restart();
    const jobs = await server.json<Job[]>('/jobs');
    if (jobs[0]?.pictures.length !== 2) report.problems.push('pictures are not as they were answered');
    const again = (await server.json<PictureState>(`/pictures/${first}`)).document.faults.length;
    if (again !== edits) report.problems.push(`after a restart ${again} of ${edits} faults are there`);
    if (readdirSync(join(disk.folder, 'incoming')).length)
      report.problems.push('files are left among those on their way in');
    await server.kill('SIGTERM');
    report.problems.push(...checkStoreFile(join(disk.folder, 'studio.db')).problems);
  } catch (error) {
    report.problems.push((error as Error).message);
  } finally {
    await server.kill();
    disk.remove();
  }
  return report;
}
