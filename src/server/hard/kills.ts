import { readFileSync } from 'node:fs';
import type { TestServer } from '../../../e2e/server.ts';
import type { PictureState } from '../../contract/api.ts';
import type { Job } from '../../contract/studio.ts';
import { checkStoreFile } from '../store/upkeep.ts';
import { count, newReport, seeded, type Report } from './report.ts';

const stroke = (x: number, y: number) => ({ points: [[x, y, 1], [x + 9, y + 4, 1]], size: 12, hardness: 0.7, flow: 1, opacity: 1, spacing: 0.2, pressure: 'none' }); // prettier-ignore
const donor = { from: [200, 200], at: [100, 100], turn: 0, scale: 1, mirror: 'none', travels: true };

/**
 * Ends the server at once, again and again, while edits, strokes, fills and imports go on. Afterwards every document must be, row
 * by row, as it was last answered, or that with the one edit that was on its way; every picture that was answered is there.
 */
export async function kills(server: TestServer, times: number, file: string, seed = 1): Promise<Report> {
  const report = newReport('kills');
  const random = seeded(seed);
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Killed' });
  const take = async (name: string) =>
    (await server.json<{ id: string }>(`/jobs/${job}/pictures?name=${name}`, 'POST', readFileSync(file))).id;
  const base = await take('base.jpg');
  const pictures = [base];
  const edit = (body: object) => server.json(`/pictures/${base}/edits`, 'POST', body);
  const document = async () => (await server.json<PictureState>(`/pictures/${base}`)).document;
  await edit({
    type: 'placeRepair',
    spec: { method: 'copy', strokes: [stroke(60, 60)], donor },
    faultIds: [],
    layerId: null,
  });
  const [{ id: repair }] = (await document()).repairs;

  for (let round = 0; round < times; round++) {
    // What is answered before, and known whole.
    const actions: Array<() => Promise<unknown>> = [
      () => edit({ type: 'addFault', kind: 'speck', shapes: [{ op: 'add', kind: 'brush', points: [[20 + random.below(900), 20 + random.below(600)]], size: 9 }] }),
      () => edit({ type: 'addStrokes', id: repair, strokes: [stroke(40 + random.below(800), 40 + random.below(500))] }),
      () => edit({ type: 'changeRepair', id: repair, set: { strength: random.next() } }),
      // Only what this made itself is undone, never the repair that is painted on.
      () => actions[0]().then(() => server.json(`/pictures/${base}/undo`, 'POST')),
    ]; // prettier-ignore
    for (let n = random.below(4); n >= 0; n--) await random.pick(actions)();
    if (round % 5 === 1) {
      const open = (await document()).faults.find((f) => f.state === 'open');
      if (open) await server.json(`/pictures/${base}/fills`, 'POST', { faultIds: [open.id] });
    }
    const answered = await document();
    // What is on its way when the power goes.
    const onItsWay = random.pick(['edit', 'stroke', 'import'] as const);
    let came = false;
    const work = (
      onItsWay === 'edit' ? actions[0]() : onItsWay === 'stroke' ? actions[1]() : take(`r${round}.jpg`).then((id) => pictures.push(id))
    ).then(() => (came = true), () => undefined); // prettier-ignore
    await new Promise((resolve) => setTimeout(resolve, random.below(120)));
    await server.kill();
    await work;
    await server.start();
    const now = await document();
    const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
    /** Without the newest fault, or the newest stroke: what may or may not have been written. */
    const without = structuredClone(now);
    if (onItsWay === 'edit') without.faults = without.faults.slice(0, -1);
    const spec = without.repairs.find((r) => r.id === repair)?.tries[0].spec;
    if (onItsWay === 'stroke' && spec && 'strokes' in spec) spec.strokes = spec.strokes.slice(0, -1);
    const whole = (came && onItsWay !== 'import' ? [] : [now]).concat(onItsWay === 'import' ? [] : [without]);
    if (!whole.some((d) => same(d, answered)))
      report.problems.push(`round ${round} (${onItsWay}): the document is not as answered`);
    const there = (await server.json<Job[]>('/jobs')).flatMap((j) => j.pictures.map((p) => p.id));
    for (const id of pictures)
      if (!there.includes(id)) report.problems.push(`round ${round}: a picture that was answered is gone`);
    count(report, onItsWay);
  }
  await server.kill('SIGTERM');
  const { problems } = checkStoreFile(`${server.data}/studio.db`);
  report.problems.push(...problems);
  await server.start();
  return report;
}
