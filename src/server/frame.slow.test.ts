// What Frame asks of the server: the subject and its edge, ways that are looked at, a strip, frames joined again.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { decode as decodePng, encode as encodePng } from 'fast-png';
import LibSql from 'libsql';
import sharp from 'sharp';
import { framesOf } from '../../bench/frames-of.ts';
import { photograph, randomiser } from '../../bench/planted.ts';
import { TestServer } from '../../e2e/server.ts';
import type { PictureState } from '../contract/api.ts';
import type { Job } from '../contract/studio.ts';
import type { WayView } from '../contract/views.ts';
import { JOIN_VERSION } from '../core/join/join.ts';
import { rasterise, type Shape } from '../core/mask/shapes.ts';
import { PROFILES } from '../core/repair/strip/profile.ts';

const [WIDTH, HEIGHT] = [240, 180];
/** A red block before a grey wall with grain, above a floor. */
const isBlock = (x: number, y: number) => x >= 100 && x < 140 && y >= 60 && y < 150;
const PICTURE = new Uint8Array(WIDTH * HEIGHT * 3);
for (let i = 0; i < WIDTH * HEIGHT; i++) {
  const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
  const grain = ((i * 2654435761) >>> 9) % 9;
  const tone = y < 130 ? 150 : 90;
  PICTURE.set(isBlock(x, y) ? [170 + grain, 40, 40] : [tone + grain, tone + grain, tone + grain], 3 * i);
}

const server = new TestServer();
beforeAll(() => server.start());
afterAll(() => server.kill());

async function taken(
  policy = 'creative',
  name = 'Frame',
  picture = { width: WIDTH, height: HEIGHT, data: PICTURE },
): Promise<string> {
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name, policy });
  const file = encodePng({ ...picture, channels: 3 });
  return (await server.json<{ id: string }>(`/jobs/${job}/pictures?name=a.png`, 'POST', file)).id;
}
const post = async (path: string, body: object) => {
  const answer = await fetch(`${server.address}/api${path}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  });
  return { status: answer.status, body: (await answer.json()) as { message: string } };
};

test('a subject is kept with its picture, and its edge is found within a rough mark', async () => {
  const id = await taken();
  expect(await server.json(`/pictures/${id}/subject`)).toBeNull();
  const within = { x: 80, y: 40, width: 80, height: 125 };
  const shapes = await server.json<Shape[]>(`/pictures/${id}/subject-edge`, 'POST', { within, keep: [], leave: [] });
  const { data } = rasterise(shapes, { x: 0, y: 0, width: WIDTH, height: HEIGHT });
  let [both, either] = [0, 0];
  for (let i = 0; i < data.length; i++) {
    const own = isBlock(i % WIDTH, Math.floor(i / WIDTH));
    if (own && data[i]) both++;
    if (own || data[i]) either++;
  }
  expect(both / either).toBeGreaterThan(0.93);
  await server.json(`/pictures/${id}/subject`, 'POST', { shapes });
  expect(await server.json(`/pictures/${id}/subject`)).toEqual(shapes);
  // It is there after a restart, and goes with its picture.
  await server.restart();
  expect(await server.json(`/pictures/${id}/subject`)).toEqual(shapes);
  await server.json(`/pictures/${id}`, 'DELETE');
  expect((await fetch(`${server.address}/api/pictures/${id}/subject`)).status).toBe(404);
  expect((await post(`/pictures/${id}/subject`, { shapes: 'all of it' })).status).toBe(400);
});

test('a way is looked at without changing anything; what cannot be is refused in words', async () => {
  const id = await taken();
  const before = await server.json<PictureState>(`/pictures/${id}`);
  const subject: Shape[] = [{ op: 'add', kind: 'box', x: 98, y: 58, width: 44, height: 94 }];
  const asked = { canvas: { x: -40, y: 0, width: 320, height: HEIGHT }, subject, by: 'smooth' };
  for (const way of ['extend', 'stretch', 'mixed']) {
    const view = await server.json<WayView>(`/pictures/${id}/way`, 'POST', { ...asked, way });
    expect(view.picture).toMatch(/^data:image\/(jpeg|png);base64,/);
    expect(view.longSide).toBe(320);
    expect(Array.isArray(view.signs)).toBe(true);
  }
  const after = await server.json<PictureState>(`/pictures/${id}`);
  expect(after.document).toEqual(before.document);
  expect(after.undo).toBeNull();
  const beside = await post(`/pictures/${id}/way`, { ...asked, way: 'extend', canvas: { x: 900, y: 0, width: 50, height: 50 } }); // prettier-ignore
  expect(beside.status).toBe(422);
  expect(beside.body.message).toMatch(/Let it overlap the picture/);
  const huge = { x: 0, y: 0, width: 60_000, height: 60_000 };
  expect((await post(`/pictures/${id}/way`, { ...asked, way: 'extend', canvas: huge })).status).toBe(413);
  expect((await post(`/pictures/${id}/way`, { ...asked, way: 'magic' })).status).toBe(400);
});

test('looked at on a canvas that stands and has gaps, a way shows nothing of them', async () => {
  const [width, height] = [1500, 1000];
  const data = Uint8Array.from({ length: width * height * 3 }, (_, i) => 196 + (((i * 2654435761) >>> 9) % 9));
  const id = await taken('creative', 'Gaps', { width, height, data });
  // It begins half way through a px of the size that is looked at.
  const canvas = { x: -150, y: 0, width: width + 300, height };
  await server.edit(id, { type: 'reframe', canvas, turn: null });
  const asked = { canvas, subject: [], by: 'smooth', way: 'extend' };
  const { picture } = await server.json<WayView>(`/pictures/${id}/way`, 'POST', asked);
  const { data: seen } = await sharp(Buffer.from(picture.split(',')[1], 'base64'))
    .raw()
    .toBuffer({ resolveWithObject: true });
  const [least, most] = seen.reduce(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [255, 0]);
  expect(least).toBeGreaterThan(185);
  expect(most).toBeLessThan(215);
});

const strip = {
  method: 'strip',
  corners: [[0, 110], [WIDTH, 110], [WIDTH, 130], [0, 130]], // prettier-ignore
  profile: PROFILES['rounded board'],
  relief: 1,
  stops: 0,
  shadow: 0.5,
  guard: [{ op: 'add', kind: 'box', x: 100, y: 60, width: 40, height: 90 }],
};

test('a strip is laid behind the subject, leaves with the picture and is verified; a documentary job refuses it', async () => {
  const id = await taken();
  await server.edit(id, { type: 'placeRepair', spec: strip, faultIds: [], layerId: null });
  const file = await server.bytes(`/pictures/${id}/export?format=png`);
  const { data } = decodePng(file);
  let [touched, before] = [0, 0];
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const o = 3 * (y * WIDTH + x);
      const same = [0, 1, 2].every((c) => data[o + c] === PICTURE[o + c]);
      if (isBlock(x, y) && !same) before++;
      if (!same && y < 108) touched++;
    }
  expect([before, touched]).toEqual([0, 0]);
  expect(data[3 * (120 * WIDTH + 30)]).not.toBe(PICTURE[3 * (120 * WIDTH + 30)]);
  const [{ id: delivery }] = await server.json<Array<{ id: string }>>(`/pictures/${id}/deliveries`);
  const record = await server.json<{ disclosure: string }>(`/deliveries/${delivery}/record?form=json`);
  expect(record.disclosure).toMatch(/^A strip that was not there was drawn in\./);
  const verified = await server.json<{ agrees: boolean }>(`/deliveries/${delivery}/verify`, 'POST', file);
  expect(verified.agrees).toBe(true);

  const other = await taken('documentary', 'Report');
  const refused = await post(`/pictures/${other}/edits`, { type: 'placeRepair', spec: strip, faultIds: [], layerId: null }); // prettier-ignore
  expect(refused.status).toBe(409);
  expect(refused.body.message).toMatch(/documentary job: a strip that was not there must not be drawn in/);
});

/** Two frames of a place; when the second one was taken something dark stood at its left end, and something else came in below it. */
async function framesOfWhatMoved(): Promise<{ job: string; ids: string[] }> {
  const { frames } = framesOf(await photograph('dust-bowl-home', 1400), randomiser(7), 2, 600);
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Moved' });
  const ids: string[] = [];
  for (const [n, { raster }] of frames.entries()) {
    const { width, height } = raster;
    const data = Uint8Array.from(raster.data);
    const dark = (x0: number, x1: number, y0: number, y1: number) => {
      for (let y = Math.round(y0 * height); y < y1 * height; y++)
        for (let x = Math.round(x0 * width); x < x1 * width; x++)
          data.fill(6, 3 * (y * width + x), 3 * (y * width + x) + 3);
    };
    if (n === 1) {
      dark(0, 0.3, 0.2, 0.45);
      dark(0.08, 0.75, 0.48, 0.6);
    }
    const file = encodePng({ width, height, data, channels: 3 });
    ids.push((await server.json<{ id: string }>(`/jobs/${job}/pictures?name=f${n}.png`, 'POST', file)).id);
  }
  return { job, ids };
}

/** What `tersum replay` says of a picture. */
const replay = (id: string) =>
  JSON.parse(
    spawnSync(process.execPath, ['dist/server/command.js', 'replay', '--picture', id, '--data', server.data], {
      encoding: 'utf8',
    }).stdout,
  ) as object;

test('where a join runs through what moved it is taken from the other frame; the first picture stays', async () => {
  const { job, ids } = await framesOfWhatMoved();
  const joined = async (count: number): Promise<Job['pictures']> => {
    for (let n = 0; n < 240; n++) {
      const own = (await server.json<Job[]>('/jobs')).find((j) => j.id === job)!.pictures.filter((p) => p.joined);
      if (own.length >= count) return own;
      await new Promise((r) => setTimeout(r, 250));
    }
    throw new Error('It was not joined.');
  };
  await server.json(`/jobs/${job}/join`, 'POST', { pictureIds: ids });
  const [first] = await joined(1);
  const { cuts } = first.joined!.account;
  expect(cuts.map((c) => c.frames)).toEqual([[0, 1]]);
  // The first frame ends within what came in.
  const [none, keep] = cuts[0].places;
  expect(none).toBeNull();
  expect((await post(`/pictures/${ids[0]}/join-again`, { frame: 1, keep })).status).toBe(409);
  expect((await post(`/pictures/${first.id}/join-again`, { frame: 7, keep })).status).toBe(409);
  await server.json(`/pictures/${first.id}/join-again`, 'POST', { frame: 1, keep });
  const both = await joined(2);
  const second = both.find((p) => p.id !== first.id)!;
  expect(second.name).toMatch(/joined 2\.png$/);
  expect(second.joined!.marks).toEqual([null, { keep: [{ op: 'add', kind: 'box', ...keep }], leave: [] }]);
  expect(second.joined!.account.cuts).toEqual([]);
  // All of what came in is there.
  const darkIn = async (id: string) => {
    const { data } = decodePng(await server.bytes(`/pictures/${id}/export?format=png&missing=leave`));
    let n = 0;
    for (let i = 0; i < data.length; i += 3) if (data[i] > 1 && data[i] < 12 && data[i + 2] < 12) n++;
    return n;
  };
  expect(await darkIn(second.id)).toBeGreaterThan(1.05 * (await darkIn(first.id)));
  // Joined again from its frames it is the same; what an earlier version joined otherwise cannot be repeated, and is no fault.
  expect(second.joined!.version).toBe(JOIN_VERSION);
  expect(replay(second.id)).toMatchObject({ same: true, pictures: [{ joined: true }] });
  const otherwise = (version: number | undefined) => {
    const studio = new LibSql(join(server.data, 'studio.db'));
    const value = JSON.stringify({ ...second.joined, marks: undefined, version });
    studio.prepare('update picture set joined = ? where id = ?').run(value, second.id);
    studio.close();
    return replay(second.id);
  };
  expect(otherwise(undefined)).toMatchObject({ same: true, pictures: [{ joined: 'earlier' }] });
  expect(otherwise(JOIN_VERSION)).toMatchObject({ same: false, pictures: [{ joined: false }] });
}, 240_000);
