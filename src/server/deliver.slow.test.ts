import { execFile } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { encode as encodePng } from 'fast-png';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { TestServer } from '../../e2e/server.ts';
import type { PictureState } from '../contract/api.ts';
import { USUAL_HAND_OVER, type Delivery } from '../contract/hand-over.ts';
import type { RepairRecord, Verification } from '../contract/record.ts';
import type { Job } from '../contract/studio.ts';

const run = promisify(execFile);
const server = new TestServer();
beforeAll(() => server.start());
afterAll(() => server.kill());

const [W, H] = [240, 180];
const pixels = Uint8Array.from({ length: W * H * 3 }, (_, i) => 110 + (((i * 2654435761) >>> 9) % 30));
const file = Buffer.from(encodePng({ width: W, height: H, channels: 3, data: pixels }));

async function jobWith(...names: string[]): Promise<{ job: string; ids: string[] }> {
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', {
    name: 'Dunes / west',
    client: 'Skerrow: Trust',
  });
  const ids = [];
  for (const name of names) {
    const { id } = await server.json<{ id: string }>(`/jobs/${job}/pictures?name=${name}`, 'POST', file);
    ids.push(id);
  }
  return { job, ids };
}
async function treat(id: string, x: number): Promise<void> {
  const shapes = [{ op: 'add', kind: 'brush', points: [[x, 90]], size: 12 }];
  const { document } = await server.edit(id, { type: 'addFault', kind: 'speck', shapes });
  await server.json(`/pictures/${id}/fills`, 'POST', { faultIds: [document.faults.at(-1)!.id] });
  await server.json(`/pictures/${id}/export/ready`);
}
const listOf = (id: string) => server.json<Delivery[]>(`/pictures/${id}/deliveries`);
const jobOf = async (id: string) => (await server.json<Job[]>('/jobs')).find((j) => j.id === id)!;
const post = async (path: string, body: Uint8Array) =>
  (await (await fetch(`${server.address}/api${path}`, { method: 'POST', body: body as never })).json()) as Verification;
async function until(done: () => Promise<boolean>): Promise<void> {
  while (!(await done())) await new Promise((resolve) => setTimeout(resolve, 50));
}

test('what leaves is noted with its record; versions count up with the picture, not with files', async () => {
  const { ids } = await jobWith('a.png');
  await treat(ids[0], 60);
  const first = await server.bytes(`/pictures/${ids[0]}/export?format=png`);
  await server.bytes(`/pictures/${ids[0]}/export?format=tiff`);
  // The same once more is the same file, and no other delivery.
  expect((await server.bytes(`/pictures/${ids[0]}/export?format=png`)).equals(first)).toBe(true);
  await server.bytes(`/pictures/${ids[0]}/export?format=covers`);
  await treat(ids[0], 140);
  await server.bytes(`/pictures/${ids[0]}/export?format=png`);
  const list = await listOf(ids[0]);
  expect(list.map((d) => [d.format, d.version, d.fileName]).sort()).toEqual([
    ['png', 1, 'Skerrow Trust Dunes west a v1.png'],
    ['png', 2, 'Skerrow Trust Dunes west a v2.png'],
    ['tiff', 1, 'Skerrow Trust Dunes west a v1.tif'],
  ]);
  const own = list.find((d) => d.format === 'png' && d.version === 1)!;
  const record = await server.json<RepairRecord>(`/deliveries/${own.id}/record?form=json`);
  expect(record.repairs).toHaveLength(1);
  expect(record.repairs[0].at).toMatch(/^2\d{3}-/);
  expect((await server.bytes(`/deliveries/${own.id}/record?form=pdf`)).toString('latin1', 0, 5)).toBe('%PDF-');
  expect((await server.bytes(`/deliveries/${own.id}/record?form=csv`)).toString()).toContain('speck');

  expect((await post(`/deliveries/${own.id}/verify`, first)).agrees).toBe(true);
  const { data } = await sharp(first).raw().toBuffer({ resolveWithObject: true });
  data[3 * (50 * W + 7)] ^= 1;
  const changed = encodePng({ width: W, height: H, channels: 3, data });
  expect(await post(`/deliveries/${own.id}/verify`, changed)).toMatchObject({
    agrees: false,
    differs: { x: 7, y: 50, pixels: 1 },
  });

  // The command line says the same, and its exit status.
  const folder = mkdtempSync(join(tmpdir(), 'tersum-verify-'));
  const at = (name: string, bytes: Uint8Array | string) => (
    writeFileSync(join(folder, name), bytes),
    join(folder, name)
  );
  const options = ['--original', at('o.png', file), '--record', at('r.json', JSON.stringify(record))];
  const tersum = (delivered: string) =>
    run('node', ['dist/cli/tersum.js', 'verify', ...options, '--delivered', delivered]).then(
      ({ stdout }) => ({ code: 0, stdout }),
      (error: { code: number; stdout: string }) => error,
    );
  expect((await tersum(at('d.png', first))).code).toBe(0);
  const refused = await tersum(at('x.png', changed));
  expect(refused.code).toBe(1);
  expect(JSON.parse(refused.stdout)).toMatchObject({ differs: { x: 7, y: 50 } });
});

test('names, editor and disclosure are those of the job', async () => {
  const { job, ids } = await jobWith('b.png');
  await treat(ids[0], 60);
  const handOver = {
    ...USUAL_HAND_OVER,
    template: '{picture} {date} {version}',
    editor: 'M. Aird',
    disclosure: 'One speck went.',
    sourceType: 'print',
  };
  await server.json(`/jobs/${job}`, 'PATCH', { handOver });
  const reply = await fetch(`${server.address}/api/pictures/${ids[0]}/export?format=jpeg`);
  expect(reply.headers.get('content-disposition')).toMatch(/filename="b 2\d{3}-\d\d-\d\d 1\.jpg"/);
  const xmp = (await sharp(Buffer.from(await reply.arrayBuffer())).metadata()).xmp!.toString();
  expect(xmp).toContain('digitalsourcetype/print<');
  expect(xmp).toContain('One speck went. By M. Aird.');
  const refused = await fetch(`${server.address}/api/jobs/${job}`, {
    method: 'PATCH',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ handOver: { ...handOver, webSide: 5 } }),
  });
  expect(refused.status).toBe(400);
});

test('a picture that nothing was done to says nothing of it', async () => {
  const { ids } = await jobWith('c.png');
  const { xmp } = await sharp(await server.bytes(`/pictures/${ids[0]}/export?format=png`)).metadata();
  expect(xmp).toBeUndefined();
});

test('a whole job leaves in one file, as a contact sheet, and into the letterbox with its note', async () => {
  const { job, ids } = await jobWith('same.png', 'same.png');
  for (const id of ids) await treat(id, 100);
  const names = Object.keys(unzipSync(await server.bytes(`/jobs/${job}/export?format=png`)));
  expect(names.sort()).toEqual([
    'Skerrow Trust Dunes west same v1 (2).png',
    'Skerrow Trust Dunes west same v1 (2).png.record.csv',
    'Skerrow Trust Dunes west same v1 (2).png.record.json',
    'Skerrow Trust Dunes west same v1.png',
    'Skerrow Trust Dunes west same v1.png.record.csv',
    'Skerrow Trust Dunes west same v1.png.record.json',
  ]);
  const sheet = await server.bytes(`/jobs/${job}/contact-sheet`);
  expect(sheet.toString('latin1', 0, 5)).toBe('%PDF-');

  await server.json(`/jobs/${job}/letterbox`, 'POST', { format: 'tiff', note: 'With thanks.' });
  await until(async () => (await jobOf(job)).deliveredAt !== null);
  const out = join(server.data, 'letterbox', 'Skerrow Trust', 'out', 'Dunes west');
  expect(readdirSync(out).filter((n) => !n.includes('record'))).toEqual([
    'Skerrow Trust Dunes west same v1 (2).tif',
    'Skerrow Trust Dunes west same v1.tif',
    'note.txt',
  ]);
  expect(readFileSync(join(out, 'note.txt'), 'utf8')).toBe('With thanks.\n');
  expect((await listOf(ids[0])).find((d) => d.format === 'tiff')!.sent).toBe(true);
});

test('a file in the letterbox is offered, taken in and put aside; no other file can be reached', async () => {
  const { job } = await jobWith();
  const folder = join(server.data, 'letterbox', 'Skerrow Trust', 'in');
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'new.png'), file);
  writeFileSync(join(folder, '.hidden'), 'x');
  expect(await server.json(`/jobs/${job}/letterbox`)).toEqual([{ name: 'new.png', bytes: file.length }]);
  const { id } = await server.json<{ id: string }>(`/jobs/${job}/letterbox/take`, 'POST', { name: 'new.png' });
  expect((await server.json<PictureState>(`/pictures/${id}`)).picture.name).toBe('new.png');
  expect(await server.json(`/jobs/${job}/letterbox`)).toEqual([]);
  expect(readdirSync(join(folder, 'taken'))).toEqual(['new.png']);
  for (const name of ['../../../studio.db', 'taken/new.png', '.hidden'])
    await expect(server.json(`/jobs/${job}/letterbox/take`, 'POST', { name })).rejects.toThrow(
      'no longer in the letterbox',
    );
});

test('nothing is sent of a job without pictures', async () => {
  const { job } = await jobWith();
  await expect(server.json(`/jobs/${job}/contact-sheet`)).rejects.toThrow('This job has no pictures yet.');
  await expect(server.json(`/jobs/${job}/letterbox`, 'POST', { format: 'png' })).rejects.toThrow('no pictures yet');
});
