// The canvas begins left of the source and ends before its right edge: marks, fills, tiles, exports, undo.
import { spawnSync } from 'node:child_process';
import { decode as decodePng, encode as encodePng } from 'fast-png';
import { unzipSync } from 'fflate';
import { TestServer } from '../../e2e/server.ts';
import type { PictureState } from '../contract/api.ts';

const [WIDTH, HEIGHT] = [360, 240];
/** px that the canvas reaches beyond the source at the left, and that it cuts at the right */
const [GROWN, CUT] = [60, 40];
const CANVAS = { x: -GROWN, y: 0, width: GROWN + WIDTH - CUT, height: HEIGHT };

/** A backdrop that darkens downwards, with grain. */
function backdrop(): Uint8Array {
  const data = new Uint8Array(WIDTH * HEIGHT * 3);
  for (let i = 0; i < data.length; i++)
    data[i] = 60 + (i / (WIDTH * 3) / HEIGHT) * 80 + (i % 3) * 12 + (((i * 2654435761) >>> 9) % 11);
  return data;
}
const SOURCE = backdrop();
const sourceAt = (x: number, y: number) => [0, 1, 2].map((c) => SOURCE[(y * WIDTH + x) * 3 + c]);

const server = new TestServer();
beforeAll(() => server.start());
afterAll(() => server.kill());

async function taken(): Promise<string> {
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Canvas' });
  const file = encodePng({ width: WIDTH, height: HEIGHT, data: SOURCE, channels: 3 });
  return (await server.json<{ id: string }>(`/jobs/${job}/pictures?name=a.png`, 'POST', file)).id;
}

const stateOf = (id: string) => server.json<PictureState>(`/pictures/${id}`);
const edit = (id: string, body: object) => server.edit(id, body);
const setCanvas = (id: string, box = CANVAS) => edit(id, { type: 'setStep', spec: { step: 'canvas', box } });
const refusal = async (path: string, body?: object) => {
  const answer = await fetch(`${server.address}/api${path}`, {
    ...(body && { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) }),
  });
  return { status: answer.status, message: ((await answer.json()) as { message: string }).message };
};

interface Seen {
  width: number;
  height: number;
  /** colours at a place of the base */
  at(x: number, y: number): number[];
}

function seen(png: Uint8Array, corner: { x: number; y: number }): Seen {
  const { width, height, data, channels } = decodePng(png);
  const at = (x: number, y: number) => {
    const o = ((y - corner.y) * width + x - corner.x) * channels;
    return Array.from(data.subarray(o, o + 3));
  };
  return { width, height, at };
}

const exported = async (id: string, corner = CANVAS, more = '') =>
  seen(await server.bytes(`/pictures/${id}/export?format=png${more}`), corner);

/** Places all over the part of the source that is on the canvas, which nothing covers. */
const UNTOUCHED = [[0, 3], [1, 237], [150, 100], [318, 2], [319, 239]]; // prettier-ignore

const GAP = [{ op: 'add', kind: 'box', x: -GROWN, y: 0, width: GROWN, height: HEIGHT }];

test('tiles and close-ups show the canvas: the gap in grey, every pixel of the source in its place', async () => {
  const id = await taken();
  const { pixels: before } = await stateOf(id);
  const { pixels, document, undo } = await setCanvas(id);
  expect([document.steps[0].spec, undo]).toEqual([{ step: 'canvas', box: CANVAS }, 'Set the canvas']);
  // Tiles are others now: addresses of the time before never name them.
  expect(pixels.epoch).not.toBe(before.epoch);
  for (const view of ['repaired', 'original']) {
    const tile = seen(await server.bytes(`/pictures/${id}/tiles/${view}/${pixels.epoch}.0/0/0/0`), CANVAS);
    expect([tile.width, tile.height]).toEqual([CANVAS.width, CANVAS.height]);
    for (const [x, y] of UNTOUCHED) expect(tile.at(x, y)).toEqual(sourceAt(x, y));
    expect(tile.at(-1, 7)).toEqual([128, 128, 128]);
  }
  const close = await server.bytes(`/pictures/${id}/close-up?x=-60&y=10&width=40&height=20&side=64`);
  expect(close.length).toBeGreaterThan(100);
  expect((await refusal(`/pictures/${id}/close-up?x=330&y=0&width=20&height=20&side=64`)).message).toMatch(/outside/);
});

test('marks lie on the canvas, also left of the source; what it cuts off can no longer be marked', async () => {
  const id = await taken();
  await setCanvas(id);
  const dab = (x: number) => [{ op: 'add', kind: 'brush', points: [[x, 120]], size: 12 }];
  const state = await edit(id, { type: 'addFault', kind: 'scuff', shapes: dab(-30) });
  expect(state.document.faults[0].shapes[0]).toMatchObject({ points: [[-30, 120]] });
  const beside = await refusal(`/pictures/${id}/edits`, { type: 'addFault', kind: 'scuff', shapes: dab(345) });
  expect([beside.status, beside.message]).toEqual([422, expect.stringMatching(/outside the picture/)]);
});

test('the gap is filled, the export is the canvas, and no untouched pixel differs by a bit', async () => {
  const id = await taken();
  await setCanvas(id);
  expect(await refusal(`/pictures/${id}/export?format=png`)).toEqual({
    status: 409,
    message: expect.stringMatching(/^16 % of the canvas is a gap without pixels\. Mark and fill it/),
  });
  const bare = await exported(id, CANVAS, '&missing=leave');
  expect([bare.width, bare.height, bare.at(-60, 0)]).toEqual([CANVAS.width, HEIGHT, [128, 128, 128]]);

  const { document } = await edit(id, { type: 'addFault', kind: 'gap', shapes: GAP });
  await server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [document.faults[0].id] });
  expect(await server.json(`/pictures/${id}/export/ready`)).toEqual({ repairs: 1 });
  const filled = await exported(id);
  expect([filled.width, filled.height]).toEqual([CANVAS.width, HEIGHT]);
  for (const [x, y] of UNTOUCHED.slice(2)) expect(filled.at(x, y)).toEqual(sourceAt(x, y));
  // The backdrop goes on: each row about as light as beside it, and with its grain.
  const row = (y: number) => Array.from({ length: 50 }, (_, n) => filled.at(n - GROWN, y)[0]);
  for (const y of [10, 120, 230]) {
    const mean = row(y).reduce((a, b) => a + b) / 50;
    expect(Math.abs(mean - (65 + (y / HEIGHT) * 80))).toBeLessThan(5);
    expect(new Set(row(y)).size).toBeGreaterThan(4);
  }
  const { statuses } = await stateOf(id);
  expect(Object.values(statuses[0].tries)[0].box.x).toBe(-GROWN);

  // OpenRaster: the source lies where it belongs, and its layers with it.
  const ora = unzipSync(await server.bytes(`/pictures/${id}/export?format=ora`));
  const xml = Buffer.from(ora['stack.xml']).toString();
  expect(xml).toContain(`w="${CANVAS.width}" h="${HEIGHT}"`);
  expect(xml).toMatch(new RegExp(`name="Original"[^>]*x="${GROWN}" y="0"`));
  expect(xml).toMatch(/name="gaps"[^>]*x="0" y="0"/i);
  const covers = unzipSync(await server.bytes(`/pictures/${id}/export?format=covers`));
  expect(decodePng(Object.values(covers)[0])).toMatchObject({ width: CANVAS.width, height: HEIGHT });
  const changed = decodePng(await server.bytes(`/pictures/${id}/export?format=changed`));
  const lightness = (x: number, y: number) => changed.data[(y * CANVAS.width + x + GROWN) * changed.channels];
  expect([lightness(-GROWN, 0), lightness(-30, 120), lightness(200, 100)]).toEqual([255, 255, 0]);
});

test('undo goes through the canvas; shrinking and growing it loses no repair and renders none anew', async () => {
  const id = await taken();
  await setCanvas(id);
  const { document } = await edit(id, { type: 'addFault', kind: 'gap', shapes: GAP });
  await server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [document.faults[0].id] });
  await server.json(`/pictures/${id}/export/ready`);
  const stroke = { points: [[-30, 60, 1], [-20, 64, 1]], size: 10, hardness: 0.8, flow: 1, opacity: 1, spacing: 0.2, pressure: 'none' }; // prettier-ignore
  const donor = { from: [100, 60], at: [-30, 60], turn: 0, scale: 1, mirror: 'none', travels: true };
  await edit(id, {
    type: 'placeRepair',
    spec: { method: 'copy', strokes: [stroke], donor },
    faultIds: [],
    layerId: null,
  });
  await server.json(`/pictures/${id}/export/ready`);
  const whole = await exported(id);
  expect(whole.at(-30, 60)).toEqual(sourceAt(100, 60));
  const keys = ({ statuses }: PictureState) => statuses.map((s) => Object.values(s.tries)[0].key);
  const before = await stateOf(id);

  // Without the canvas the source alone is left; the repairs are there, but not on it.
  await edit(id, { type: 'removeStep', id: before.document.steps[0].id });
  await server.json(`/pictures/${id}/export/ready`);
  const plain = await exported(id, { x: 0, y: 0 } as typeof CANVAS);
  expect([plain.width, plain.height]).toEqual([WIDTH, HEIGHT]);
  expect(plain.at(355, 100)).toEqual(sourceAt(355, 100));
  const without = await stateOf(id);
  expect(without.document.repairs).toHaveLength(2);
  expect(without.statuses.map((s) => s.state)).toEqual(['shown', 'shown']);
  expect(keys(without)).toEqual(keys(before));

  // A smaller one, then back by undo: the same pixels as before.
  await setCanvas(id, { ...CANVAS, x: -20, width: CANVAS.width - 40 });
  expect((await exported(id, { ...CANVAS, x: -20 })).at(-10, 100)).toEqual(whole.at(-10, 100));
  await server.json(`/pictures/${id}/undo`, 'POST');
  await server.json(`/pictures/${id}/undo`, 'POST');
  const again = await exported(id);
  for (const [x, y] of [[-60, 0], [-30, 60], [-1, 239], [10, 10], [319, 100]]) expect(again.at(x, y)).toEqual(whole.at(x, y)); // prettier-ignore
  await server.restart();
  const later = await exported(id);
  expect(later.at(-30, 60)).toEqual(whole.at(-30, 60));
  expect(keys(await stateOf(id))).toEqual(keys(before));
  const replayed = spawnSync(
    process.execPath,
    ['dist/server/command.js', 'replay', '--picture', id, '--data', server.data],
    { encoding: 'utf8' },
  );
  expect(JSON.parse(replayed.stdout)).toMatchObject({ same: true, pictures: [{ different: [], missing: [] }] });
  // All the way back.
  for (let n = 0; n < 4; n++) await server.json(`/pictures/${id}/undo`, 'POST');
  const { document: start, undo } = await stateOf(id);
  expect([start.steps, start.faults, start.repairs, undo]).toEqual([[], [], [], null]);
});

test('strands are traced and places are measured where they lie, whatever the canvas’ corner is', async () => {
  const id = await taken();
  await setCanvas(id);
  const asked = await server.json<{ donors: Array<{ at: [number, number] }> }>(`/pictures/${id}/proposal`, 'POST', {
    kind: 'scuff',
    shapes: [{ op: 'add', kind: 'brush', points: [[40, 120]], size: 16 }],
  });
  expect(asked.donors.length).toBeGreaterThan(0);
  // Gaps are no donors: all lie on the source.
  for (const { at } of asked.donors) expect(at[0]).toBeGreaterThan(0);
  const { taskId } = await server.json<{ taskId: string }>(`/pictures/${id}/survey`, 'POST', {});
  expect(taskId).toBeTruthy();
});

test('a canvas that leaves nothing of the picture, or holds too many pixels, is refused in a sentence', async () => {
  const id = await taken();
  const ask = (box: object) => refusal(`/pictures/${id}/edits`, { type: 'setStep', spec: { step: 'canvas', box } });
  expect((await ask({ x: 400, y: 0, width: 50, height: 50 })).message).toMatch(/Nothing of the picture would be left/);
  const large = await ask({ x: -10, y: 0, width: 40_000, height: 40_000 });
  expect([large.status, large.message]).toEqual([413, expect.stringMatching(/1600 megapixels; at most 160/)]);
  expect((await ask({ x: 0, y: 0, width: 0, height: 50 })).status).toBe(400);
  expect((await stateOf(id)).document.steps).toEqual([]);
});

test('a turn acts when the picture leaves: flat files are levelled and cut, layers stay where they are, the record verifies', async () => {
  const id = await taken();
  const turn = { degrees: 3, about: [WIDTH / 2, HEIGHT / 2] as [number, number], crop: null };
  await edit(id, { type: 'reframe', canvas: null, turn });
  // Its corners are empty until it is cut.
  const refused = await refusal(`/pictures/${id}/export/ready`);
  expect([refused.status, refused.message]).toEqual([409, expect.stringMatching(/% of the canvas is a gap/)]);
  const crop = { x: 16, y: 14, width: 328, height: 212 };
  await edit(id, { type: 'reframe', canvas: null, turn: { ...turn, crop } });
  await server.json(`/pictures/${id}/export/ready`);
  const flat = await server.bytes(`/pictures/${id}/export?format=png`);
  const { width, height } = decodePng(flat);
  expect([width, height]).toEqual([crop.width, crop.height]);
  const ora = unzipSync(await server.bytes(`/pictures/${id}/export?format=ora`));
  const merged = decodePng(ora['mergedimage.png']);
  expect([merged.width, merged.height]).toEqual([WIDTH, HEIGHT]);
  expect(Array.from(merged.data.subarray(0, 3))).toEqual(sourceAt(0, 0));
  const list = await server.json<Array<{ id: string; format: string }>>(`/pictures/${id}/deliveries`);
  const png = list.find((d) => d.format === 'png')!;
  const answer = await fetch(`${server.address}/api/deliveries/${png.id}/verify`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/octet-stream' },
    body: flat as Uint8Array<ArrayBuffer>,
  });
  expect(await answer.json()).toMatchObject({ agrees: true });
});
