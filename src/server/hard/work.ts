import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { encode as encodePng } from 'fast-png';
import type { TestServer } from '../../../e2e/server.ts';
import type { PictureState } from '../../contract/api.ts';
import type { Job } from '../../contract/studio.ts';
import { count, judge, newReport, type Report } from './report.ts';

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
const speck = (x: number, y: number, size = 9) => ({ op: 'add', kind: 'brush', points: [[x, y]], size });

/** A picture of plain grain. */
export function grain(width: number, height: number, seed = 0): Uint8Array {
  const data = new Uint8Array(width * height * 3);
  for (let i = 0; i < data.length; i++)
    data[i] = 100 + 40 * Math.sin(i / 5000) + ((((i + seed) * 2654435761) >>> 9) % 30);
  return encodePng({ width, height, data, channels: 3 });
}

async function taken(server: TestServer, job: string, file: Uint8Array, name: string): Promise<string> {
  return (await server.json<{ id: string }>(`/jobs/${job}/pictures?name=${name}`, 'POST', file)).id;
}

/** Begins to complete a mesh from four strands, two of each direction. */
async function mesh(server: TestServer, id: string): Promise<void> {
  for (const [x, lean] of [[300, 0.8], [360, 0.8], [700, -0.8], [760, -0.8]]) {
    const points = Array.from({ length: 40 }, (_, n) => [x + lean * n * 10, 200 + n * 10]);
    const shapes = [{ op: 'add', kind: 'strand', points, size: 4 }];
    await server.json(`/pictures/${id}/edits`, 'POST', { type: 'addFault', kind: 'strand', shapes, line: { points, width: 4, blur: 1 } });
  }
  const { faults } = (await server.json<PictureState>(`/pictures/${id}`)).document;
  const faultIds = faults.filter((f) => f.line).map((f) => f.id);
  await server.json(`/pictures/${id}/mesh`, 'POST', { faultIds });
} // prettier-ignore

/**
 * Deleting, undoing and exporting during every kind of work: the server goes on, and answers in sentences.
 * @param every of all pairs only every so many, evenly spread
 */
export async function duringWork(server: TestServer, every = 1): Promise<Report> {
  const report = newReport('during work');
  const file = grain(1400, 1000);
  const begun: Record<string, number> = { mesh: 450 };
  const works: Record<string, (id: string, faults: string[], job: string) => Promise<unknown>> = {
    fill: (id, faults) => server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [faults[0]] }),
    'treat all': (id, faults) => server.json(`/pictures/${id}/treat`, 'POST', { faultIds: faults }),
    survey: (id) => server.json(`/pictures/${id}/survey`, 'POST', {}),
    trace: (id) => server.json(`/pictures/${id}/trace`, 'POST', { points: [[100, 100], [900, 700]] }),
    mesh: (id) => mesh(server, id),
    import: (_, __, job) => taken(server, job, file, 'more.png'),
    export: (id) => fetch(`${server.address}/api/pictures/${id}/export?format=tiff`).then((r) => r.arrayBuffer()),
    pose: (id) => server.json(`/pictures/${id}/pose`, 'POST', { piece: [{ op: 'add', kind: 'box', x: 300, y: 300, width: 300, height: 300 }], rough: [700, 500] }),
  }; // prettier-ignore
  const acts: Record<string, (id: string, job: string) => [string, string]> = {
    'delete picture': (id) => [`/pictures/${id}`, 'DELETE'],
    'delete job': (_, job) => [`/jobs/${job}`, 'DELETE'],
    undo: (id) => [`/pictures/${id}/undo`, 'POST'],
    export: (id) => [`/pictures/${id}/export?format=png`, 'GET'],
  };
  for (const [w, [work, begin]] of Object.entries(works).entries())
    for (const [a, [act, ask]] of Object.entries(acts).entries()) {
      if ((w + a) % every) continue;
      const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: `${act} during ${work}` });
      const id = await taken(server, job, file, 'grain.png');
      const faults = [{ kind: 'object', shapes: [speck(700, 500, 260)] }, ...Array.from({ length: 8 }, (_, n) => ({ kind: 'speck', shapes: [speck(60 + n * 40, 60)] }))]; // prettier-ignore
      await server.json(`/pictures/${id}/edits`, 'POST', { type: 'addFaults', faults });
      const ids = (await server.json<PictureState>(`/pictures/${id}`)).document.faults.map((f) => f.id);
      const going = begin(id, ids, job).catch(() => undefined);
      await pause(begun[work] ?? 60);
      const [path, method] = ask(id, job);
      const started = performance.now();
      const response = await fetch(`${server.address}/api${path}`, { method });
      const problem = await judge(response, performance.now() - started, `${act} during ${work}`);
      if (problem) report.problems.push(problem);
      count(report, `${response.status}`);
      await going;
      if (act !== 'delete job') await server.json(`/jobs/${job}`, 'DELETE');
    }
  const left = await server.json<Job[]>('/jobs').catch((e: Error) => {
    report.problems.push(`the server does not answer any more: ${e.message}`);
    return [];
  });
  if (left.some((j) => j.name.includes(' during '))) report.problems.push('a job is left over');
  const incoming = readdirSync(join(server.data, 'incoming'));
  if (incoming.length) report.problems.push(`${incoming.length} files are left among those on their way in`);
  return report;
}

/** Many pictures at once, far more than the cache holds: every edit that is answered is there, every fault has a number of its own. */
export async function manyPictures(server: TestServer, pictures: number, strokes: number): Promise<Report> {
  const report = newReport('many pictures at once');
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Many at once' });
  const ids = await Promise.all(
    Array.from({ length: pictures }, (_, n) => taken(server, job, grain(500, 400, n), `${n}.png`)),
  );
  await Promise.all(
    ids.flatMap((id) =>
      Array.from({ length: strokes }, async (_, n) => {
        await server.json(`/pictures/${id}/edits`, 'POST', { type: 'addFault', kind: 'speck', shapes: [speck(20 + (n % 20) * 22, 20 + Math.floor(n / 20) * 30)] });
        count(report, 'answered');
      }),
    ),
  ); // prettier-ignore
  for (const id of ids) {
    const { faults } = (await server.json<PictureState>(`/pictures/${id}`)).document;
    if (faults.length !== strokes)
      report.problems.push(`${strokes - faults.length} of ${strokes} answered edits are gone`);
    const numbers = faults.map((f) => f.number);
    if (new Set(numbers).size !== numbers.length) report.problems.push('two faults have one number');
    if (Math.max(...numbers) !== faults.length) report.problems.push('numbers are left out');
  }
  await server.json(`/jobs/${job}`, 'DELETE');
  return report;
}

/** Many changed places: no version of a tile ever goes back, and tiles show what an export holds. */
export async function changedPlaces(server: TestServer, places: number): Promise<Report> {
  const report = newReport('changed places');
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Places' });
  const [width, height] = [2600, 2100];
  const id = await taken(server, job, grain(width, height), 'places.png');
  const versions = new Map<number, number>();
  const at = (n: number) => [30 + ((n * 40) % (width - 100)), 30 + 40 * Math.floor((n * 40) / (width - 100))];
  for (let n = 0; n < places; n++) {
    const [x, y] = at(n);
    const cover = [{ op: 'add', kind: 'box', x, y, width: 6, height: 6 }];
    const donor = { from: [x + 20, y + 20], at: [x + 3, y + 3], turn: 0, scale: 1, mirror: 'none', travels: true };
    const spec = { method: 'patch', cover, feather: 0, blended: false, donor };
    await server.json(`/pictures/${id}/edits`, 'POST', { type: 'placeRepair', spec, faultIds: [], layerId: null });
    count(report, 'placed');
    if (n % 40 && n < places - 1) continue;
    await server.json(`/pictures/${id}/export/ready`);
    const { pixels } = await server.json<PictureState>(`/pictures/${id}`);
    const now = new Map(pixels.tiles);
    for (const [tile, version] of versions) if ((now.get(tile) ?? 0) < version) report.problems.push(`tile ${tile} went back after ${n} places`);
    for (const [tile, version] of now) versions.set(tile, version);
    for (let m = 0; m <= n; m += 7) {
      const [px, py] = at(m);
      const tile = Math.floor(py / 512) * pixels.across + Math.floor(px / 512);
      if (!now.get(tile)) report.problems.push(`place ${m} has no version after ${n} places`);
    }
  } // prettier-ignore
  await server.json(`/jobs/${job}`, 'DELETE');
  return report;
}
