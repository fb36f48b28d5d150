import { spawnSync } from 'node:child_process';
import { randomFillSync } from 'node:crypto';
import { mkdtempSync, readdirSync, statfsSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { encode as encodePng } from 'fast-png';
import { TestServer } from '../../../e2e/server.ts';
import type { PictureState } from '../../contract/api.ts';
import type { Job } from '../../contract/studio.ts';
import { checkStoreFile } from '../store/upkeep.ts';
import { count, newReport, type Report } from './report.ts';

/** A small disk of its own in memory; null where none may be made. */
function smallDisk(megabytes: number): { folder: string; remove(): void } | null {
  const folder = mkdtempSync(join(tmpdir(), 'tersum-disk-'));
  const made = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${megabytes}m`, 'tmpfs', folder]);
  if (made.status !== 0) return null;
  return { folder, remove: () => void spawnSync('umount', ['-l', folder]) };
}

/** A picture that cannot be packed any smaller. */
function noise(n: number): Uint8Array {
  const data = randomFillSync(new Uint8Array(1200 * 1000 * 3));
  data[0] = n;
  return encodePng({ width: 1200, height: 1000, data, channels: 3 });
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
    for (let n = 0; n < 200 && !refusal; n++)
      await server.json<{ id: string }>(`/jobs/${job}/pictures?name=${n}.png`, 'POST', noise(n)).then(
        ({ id }) => pictures.push(id),
        (e: Error) => (refusal = e.message),
      );
    count(report, `${pictures.length} pictures until it was full`);
    if (!plain.test(refusal)) report.problems.push(`an import on a full disk says: ${refusal}`);
    // Edits go on until there is no room for them either.
    const [first] = pictures;
    const { layers } = (await server.edit(first, { type: 'addLayer', name: 'Left' })).document;
    let edits = 0;
    let edited = '';
    for (let n = 1; n < 2000 && !edited; n++) {
      const points = Array.from({ length: 12_000 }, (_, i) => [n, ((i * 2654435761) >>> 7) / 1000]);
      const reveal = [{ op: 'hide', kind: 'area', shapes: [{ op: 'add', kind: 'outline', points }], feather: 0 }];
      await server.json(`/pictures/${first}/edits`, 'POST', { type: 'changeLayer', id: layers[0].id, set: { reveal } }).then(
        () => (edits = n),
        (e: Error) => (edited = e.message),
      ); // prettier-ignore
    }
    /** The number of the last edit that is in the document. */
    const last = async () => {
      const [mark] = (await server.json<PictureState>(`/pictures/${first}`)).document.layers[0].reveal!;
      const [shape] = mark.kind === 'area' ? mark.shapes : [];
      return shape.kind === 'outline' ? shape.points[0][0] : 0;
    };
    count(report, `${edits} edits until it was full`);
    if (!plain.test(edited)) report.problems.push(`an edit on a full disk says: ${edited}`);
    if ((await last()) !== edits) report.problems.push(`${edits} edits were answered, ${await last()} are there`);
    const deleted = (await server.json<Job[]>('/jobs')).flatMap((j) => j.pictures).filter((p) => p.id !== first);
    const megabytes = deleted.reduce((sum, p) => sum + p.facts.bytes, 0) / 1e6;
    const before = freeMb(disk.folder);
    for (const id of pictures.slice(1)) await server.json(`/pictures/${id}`, 'DELETE');
    const after = freeMb(disk.folder);
    count(report, `${Math.round(after - before)} MB came back`);
    if (after - before < 0.9 * megabytes)
      report.problems.push(`only ${Math.round(after - before)} MB came back from ${pictures.length - 1} pictures`);
    await server.json<{ id: string }>(`/jobs/${job}/pictures?name=again.png`, 'POST', noise(99));
    await server.restart();
    const jobs = await server.json<Job[]>('/jobs');
    if (jobs[0]?.pictures.length !== 2) report.problems.push('pictures are not as they were answered');
    if ((await last()) !== edits) report.problems.push(`after a restart ${await last()} of ${edits} edits are there`);
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
