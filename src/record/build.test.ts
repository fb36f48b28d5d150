import type { Fault, Layer, PictureDocument, Repair } from '../contract/document.ts';
import { USUAL_HAND_OVER } from '../contract/hand-over.ts';
import { fittingSourceType, recordOf, seenRepairs, treatedBy, type RecordSources } from './build.ts';

const fault = (id: string, number: number, kind: Fault['kind'], state: Fault['state'] = 'treated'): Fault => ({
  id,
  number,
  kind,
  state,
  shapes: [{ op: 'add', kind: 'box', x: 10.4 * number, y: 20, width: 5.2, height: 4 }],
  margin: 1,
  feather: 1,
});
const layer = (id: string, more: Partial<Layer> = {}): Layer => ({
  id,
  name: id,
  order: 1,
  opacity: 1,
  visible: true,
  ...more,
});
const repair = (id: string, layerId: string, faultIds: string[], method = 'fill', more: Partial<Repair> = {}) =>
  ({
    id,
    layerId,
    faultIds,
    order: 1,
    strength: 1,
    visible: true,
    chosen: `${id}-2`,
    tries: [
      { id: `${id}-1`, spec: { method: 'lift' } },
      { id: `${id}-2`, spec: { method, style: 'first', donorArea: [], donor: null } },
    ],
    ...more,
  }) as unknown as Repair;

const document: PictureDocument = {
  faults: [fault('f1', 1, 'speck'), fault('f2', 2, 'object'), fault('f3', 3, 'stain', 'open')],
  layers: [layer('low'), layer('high'), layer('hidden', { visible: false })],
  repairs: [
    repair('r1', 'high', ['f2'], 'blend'),
    repair('r2', 'low', ['f1']),
    repair('r3', 'hidden', ['f3']),
    repair('r4', 'low', ['f3'], 'fill', { strength: 0 }),
  ],
  steps: [],
};
const facts = {
  fileName: 'a.png', format: 'png', bytes: 9, width: 100, height: 50, channels: 3, depth: 8, mode: 'RGB', ppi: null,
  profile: null, jpegQuality: null, clippedDark: 0, clippedLight: 0,
} satisfies RecordSources['facts']; // prettier-ignore
const sources: RecordSources = {
  software: 'Tersum',
  now: 0,
  job: { name: 'J', client: '', brief: '', policy: 'creative', record: [{ at: 0, text: 'creative → documentary' }] },
  handOver: USUAL_HAND_OVER,
  facts,
  original: 'hash',
  document,
  canvas: { x: 0, y: 0, width: 100, height: 50 },
  rendered: new Map([['r2', { box: { x: 9.6, y: 19, width: 8, height: 6 }, covered: 50, findings: [] }]]),
  times: new Map(),
  minutes: 1.26,
};

test('what is seen are repairs of some strength on layers that are shown, and what they treat', () => {
  expect(seenRepairs(document).map((r) => r.id)).toEqual(['r2', 'r1']);
  expect(treatedBy(document).map((f) => f.id)).toEqual(['f1', 'f2']);
});

test('the source type fits what was done: nothing, small corrections by a computation, or an edit by a person', () => {
  const only = (...ids: string[]) => ({ ...document, repairs: document.repairs.filter((r) => ids.includes(r.id)) });
  expect(fittingSourceType(only('r3', 'r4'))).toBeNull();
  expect(fittingSourceType(only('r2'))).toBe('algorithmicallyEnhanced');
  expect(fittingSourceType(document)).toBe('humanEdits');
  // An object that is filled by itself changes what the picture shows all the same.
  const filled = { ...document, repairs: [repair('r1', 'high', ['f2'])] };
  expect(fittingSourceType(filled)).toBe('humanEdits');
});

test('repairs stand from the bottom up, with the try that is in use, whole px and their share of the picture', () => {
  const record = recordOf(sources);
  expect(record.repairs.map((r) => [r.number, r.layer, r.faults, r.spec.method])).toEqual([
    [1, 0, [1], 'fill'],
    [2, 0, [3], 'fill'],
    [3, 1, [2], 'blend'],
    [4, 2, [3], 'fill'],
  ]);
  expect(record.repairs[0]).toMatchObject({ place: { x: 9, y: 19, width: 9, height: 6 }, area: 1, at: null });
  expect(record.faults.map((f) => [f.number, f.state, f.place.width])).toEqual([
    [1, 'treated', 6],
    [2, 'treated', 6],
    [3, 'open', 6],
  ]);
  expect(record.minutes).toBe(1.3);
  expect(record.job.changes).toEqual([{ at: '1970-01-01T00:00:00.000Z', text: 'creative → documentary' }]);
});

test('a joined original names its frames, and is called a composite', () => {
  const frames = ['a.jpg', 'b.jpg', 'c.jpg'].map((name) => ({ name, hash: `hash of ${name}` }));
  const joined = { frames, projection: 'auto', software: 'Tersum 0.1.0', account: { left: [1], error: 0.12 } };
  const record = recordOf({ ...sources, joined: joined as unknown as RecordSources['joined'] });
  expect(record.original.joined?.frames.map((f) => [f.fileName, f.used])).toEqual([
    ['a.jpg', true],
    ['b.jpg', false],
    ['c.jpg', true],
  ]);
  expect(record.sourceType).toMatch(/\/compositeCapture$/);
  expect(record.disclosure).toMatch(/^This picture was joined from 2 frames\. Damage was repaired/);
  expect(recordOf(sources).original).not.toHaveProperty('joined');
});

test('what the editor said goes before what is put together', () => {
  const record = recordOf({ ...sources, handOver: { ...USUAL_HAND_OVER, disclosure: 'Mine.', sourceType: 'none' } });
  expect([record.disclosure, record.sourceType]).toEqual(['Mine.', null]);
  expect(recordOf(sources).sourceType).toMatch(/\/humanEdits$/);
});
