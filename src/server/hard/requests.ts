import type { TestServer } from '../../../e2e/server.ts';
import type { PictureState } from '../../contract/api.ts';
import { count, judge, newReport, seeded, type Report, type Seeded } from './report.ts';

const ROUTES: Array<[string, string]> = [
  ['GET', '/jobs'], ['POST', '/jobs'], ['PATCH', '/jobs/:job'], ['DELETE', '/jobs/:id'],
  ['POST', '/jobs/:job/pictures?name=:word'], ['POST', '/jobs/:id/pictures'],
  ['GET', '/pictures/:picture'], ['GET', '/pictures/:picture?since=:word'], ['DELETE', '/pictures/:id'],
  ['POST', '/pictures/:picture/edits'], ['POST', '/pictures/:picture/undo'], ['POST', '/pictures/:picture/redo'],
  ['POST', '/pictures/:picture/fills'], ['POST', '/pictures/:picture/treat'], ['POST', '/pictures/:picture/trace'],
  ['POST', '/pictures/:picture/renderings'], ['GET', '/pictures/:picture/work'], ['POST', '/pictures/:picture/work'],
  ['POST', '/pictures/:picture/survey'], ['GET', '/pictures/:picture/survey'],
  ['POST', '/pictures/:picture/survey/decisions'], ['POST', '/pictures/:picture/survey/accept'], ['POST', '/pictures/:picture/mesh'],
  ['POST', '/pictures/:picture/proposal'], ['POST', '/pictures/:picture/pose'],
  ['GET', '/pictures/:picture/pixels?x=:n&y=:n&width=:n&height=:n'], ['GET', '/pictures/:picture/attention?v=:word'], ['GET', '/pictures/:picture/lean?v=:word'],
  ['GET', '/pictures/:picture/tiles/:word/:word/:n/:n/:n'], ['GET', '/pictures/:picture/tiles/repaired/1/:n/:n/:n'],
  ['GET', '/pictures/:picture/close-up?x=:n&y=:n&width=:n&height=:n&side=:n'], ['GET', '/pictures/:picture/renderings/:word'],
  ['GET', '/pictures/:picture/renderings/:word/close-up?x=:n&y=:n&width=:n&height=:n'],
  ['GET', '/pictures/:picture/export?format=:word'], ['GET', '/pictures/:picture/export/ready'],
  ['DELETE', '/tasks/:id'], ['GET', '/:word'], ['GET', '/pictures/:id'], ['PUT', '/jobs'],
]; // prettier-ignore

const WORDS = [
  '',
  'x',
  '..%2f..%2fetc',
  '%E0%A4%A',
  '%00',
  'png',
  'gif',
  'repaired',
  'only-x',
  'a'.repeat(300),
  '💥',
  '-1',
  '1e9',
  'null',
  'ä ö',
  '<b>',
  "' or 1=1",
  '0'.repeat(64),
];
const NUMBERS = ['0', '1', '7', '100', '-1', '1.5', '99999', '1e12', 'NaN', '', 'abc'];
const TYPES = [
  'addFault',
  'addFaults',
  'changeFault',
  'removeFault',
  'addLayer',
  'changeLayer',
  'moveLayer',
  'removeLayer',
  'changeRepair',
  'removeRepair',
  'placeRepair',
  'addStrokes',
  'changeSpec',
  'setStrength',
  'bringBack',
  'duplicateLayer',
  'mergeLayer',
  'nothing',
];

/** Some JSON: plausible in part, wrong in part. */
function anything(random: Seeded, ids: string[], depth = 0): unknown {
  const number = () => random.pick([0, 1, -1, 5, 40, 300.5, 1e9, -1e9, 0.5]);
  const point = () => [number(), number()];
  const shape = () => random.pick<unknown>([
    { op: 'add', kind: 'brush', points: [point()], size: random.pick([9, 0, -3, 4000]) },
    { op: 'take', kind: 'box', x: number(), y: number(), width: number(), height: number() },
    { op: 'add', kind: 'outline', points: [[10, 10], [60, 12], [40, 50]] },
    { op: 'add', kind: 'strand', points: [point(), point()], size: 4 },
    {},
  ]); // prettier-ignore
  const stroke = () => ({
    points: [[...point(), 1]],
    size: random.pick([9, 0]),
    hardness: 0.5,
    flow: 1,
    opacity: 1,
    spacing: 0.2,
    pressure: 'none',
  });
  const donor = () => ({
    from: point(),
    at: point(),
    turn: number(),
    scale: random.pick([1, 0.5, 9]),
    mirror: 'none',
    travels: true,
  });
  const spec = () => random.pick<unknown>([
    { method: 'copy', strokes: [stroke()], donor: donor() },
    { method: 'patch', cover: [shape()], feather: 2, blended: true, donor: donor() },
    { method: 'shade', strokes: [stroke()], effect: 'tone', stops: 1, range: 'all', seed: 1 },
    { method: 'blend', strokes: [stroke()], donor: null, avoid: [] },
    { method: 'given', index: 3, box: {} },
    null,
  ]); // prettier-ignore
  if (depth > 2) return random.pick<unknown>([null, 1, 'x', [], {}, true]);
  const field: Record<string, () => unknown> = {
    type: () => random.pick(TYPES), id: () => random.pick(ids), kind: () => random.pick(['object', 'speck', 'ghost']), shapes: () => [shape()],
    faults: () => [{ kind: 'speck', shapes: [shape()] }], faultIds: () => [random.pick(ids)], ids: () => [random.pick(ids)], set: () => anything(random, ids, depth + 1),
    name: () => random.pick(['Job', '', 'a\u0000b', 'x'.repeat(500), 7]), spec, strokes: () => [stroke()], to: number, strength: () => random.pick([0.5, 2, 'much']),
    points: () => [point(), point()], piece: () => [shape()], rough: point, layerId: () => random.pick([null, ...ids]), policy: () => random.pick(['creative', 'none']),
    margin: number, feather: number, state: () => random.pick(['left', 'open', 'gone']), chosen: () => random.pick(ids), reveal: () => [], mark: () => ({ kind: 'speck', shapes: [shape()] }),
    seconds: number, portions: number, finders: () => random.pick([['specks'], ['ghosts'], []]), rejected: () => true, opacity: number, visible: () => random.pick([true, 'no']),
  }; // prettier-ignore
  const out: Record<string, unknown> = {};
  for (const [key, make] of Object.entries(field))
    if (random.next() < (key === 'type' || key === 'shapes' ? 0.9 : 0.5)) out[key] = make();
  return random.next() < 0.06 ? random.pick<unknown>([null, [], 'text', 5, [[[]]]]) : out;
}

/** Requests by chance over every route: each is answered, soon, and none by a fault of the server. */
export async function oddRequests(
  server: TestServer,
  picture: string,
  job: string,
  times: number,
  seed = 1,
): Promise<Report> {
  const report = newReport('odd requests');
  const random = seeded(seed);
  let ids = [picture, job, 'nowhere0000', '../../etc', ''];
  for (let n = 0; n < times; n++) {
    if (n % 50 === 0) {
      const { document } = await server.json<PictureState>(`/pictures/${picture}`);
      ids = [
        ...ids.slice(0, 5),
        ...[...document.faults, ...document.layers, ...document.repairs].slice(-30).map((r) => r.id),
        ...document.repairs.slice(-10).flatMap((r) => r.tries.map((t) => t.id)),
      ];
    }
    const [method, route] = random.pick(ROUTES);
    const path = route.replace(/:(\w+)/g, (_, name: string) =>
      name === 'picture' ? (random.next() < 0.9 ? picture : random.pick(WORDS)) : name === 'job' ? (random.next() < 0.8 ? job : random.pick(WORDS)) : name === 'id' ? encodeURIComponent(random.pick(['nowhere0000', ...WORDS])) : name === 'n' ? random.pick(NUMBERS) : random.pick(WORDS),
    ); // prettier-ignore
    const body =
      method === 'GET' || method === 'DELETE'
        ? undefined
        : random.next() < 0.05
          ? '{"broken": '
          : JSON.stringify(anything(random, ids));
    const headers: Record<string, string> =
      body === undefined
        ? {}
        : {
            'Content-Type': random.pick([
              'application/json',
              'application/json',
              'application/json',
              'application/json; charset=klingon',
              'text/plain',
            ]),
          };
    if (random.next() < 0.03) headers['Content-Encoding'] = random.pick(['gzip', 'br', 'zstd-x']);
    if (random.next() < 0.1) headers['Idempotency-Key'] = random.pick(['k1', 'k2', 'x'.repeat(100)]);
    const what = `${method} ${path.slice(0, 120)} ${body?.slice(0, 160) ?? ''}`;
    const started = performance.now();
    try {
      const response = await fetch(`${server.address}/api${encodeURI(path).replaceAll('%25', '%')}`, {
        method,
        body,
        headers,
        signal: AbortSignal.timeout(40_000),
      });
      count(report, `${response.status}`);
      const problem = await judge(response, performance.now() - started, what);
      if (problem) report.problems.push(problem);
    } catch (error) {
      count(report, 'no answer');
      report.problems.push(`${what}: ${(error as Error).message}`);
    }
  }
  return report;
}
