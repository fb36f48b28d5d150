import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { fileNameFrom } from '../../contract/file-names.ts';
import { Letterbox } from './letterbox.ts';

const folder = () => mkdtempSync(join(tmpdir(), 'tersum-letterbox-'));
const JOB = { client: 'Skerrow Light Trust', name: 'Headland, panel' };

test('what is sent lies whole in the client’s folder, by job', async () => {
  const root = folder();
  const box = new Letterbox(root);
  await box.put(JOB, 'headland v1.png', new Uint8Array([1, 2, 3]));
  await box.put(JOB, 'note.txt', 'With kind regards');
  const out = box.outOf(JOB);
  expect(relative(root, out).split('/')).toEqual(['Skerrow Light Trust', 'out', 'Headland, panel']);
  expect(readdirSync(out).sort()).toEqual(['headland v1.png', 'note.txt']);
  expect([...readFileSync(join(out, 'headland v1.png'))]).toEqual([1, 2, 3]);
  // Sent again it lies beside the first one, and nothing half written stays.
  expect(await box.put(JOB, 'note.txt', 'Again')).toBe('note (2).txt');
  expect(readFileSync(join(out, 'note.txt'), 'utf8')).toBe('With kind regards');
  expect(readFileSync(join(out, 'note (2).txt'), 'utf8')).toBe('Again');
  expect(readdirSync(out).some((n) => n.endsWith('.part'))).toBe(false);
});

test('no name leads out of the letterbox', async () => {
  const root = folder();
  const box = new Letterbox(join(root, 'letterbox'));
  for (const client of ['../..', '/etc', 'a/../../b', '..\\..', '.'])
    for (const name of ['../x', '..', 'CON', 'a\u0000b']) {
      await box.put({ client, name }, '../../../escaped.txt', 'x');
      expect(relative(join(root, 'letterbox'), box.outOf({ client, name }))).not.toMatch(/^\.\.|^\//);
    }
  expect(readdirSync(root)).toEqual(['letterbox']);
});

test('a job without a client goes by its own name', () => {
  const root = folder();
  const out = new Letterbox(root).outOf({ client: '', name: 'Loose prints' });
  expect(relative(root, out).split('/')[0]).toBe('Loose prints');
});

test('what a client sent is listed by name, taken once, and put aside', async () => {
  const root = folder();
  const box = new Letterbox(root);
  expect(await box.waiting(JOB)).toEqual([]);
  const inbox = join(root, 'Skerrow Light Trust', 'in');
  writeFileSync(join(inbox, 'b.jpg'), 'bbbb');
  writeFileSync(join(inbox, 'a.jpg'), 'a');
  writeFileSync(join(inbox, '.hidden'), 'h');
  mkdirSync(join(inbox, 'folder'));
  expect(await box.waiting(JOB)).toEqual([
    { name: 'a.jpg', bytes: 1 },
    { name: 'b.jpg', bytes: 4 },
  ]);
  const read = (path: string) => Promise.resolve(readFileSync(path, 'utf8'));
  expect(await box.take(JOB, 'b.jpg', read)).toBe('bbbb');
  expect(existsSync(join(inbox, 'taken', 'b.jpg'))).toBe(true);
  expect((await box.waiting(JOB)).map((w) => w.name)).toEqual(['a.jpg']);
  await expect(box.take(JOB, 'b.jpg', read)).rejects.toThrow('This file is no longer in the letterbox.');
});

test('what is not listed is never opened: other folders, links, hidden files', async () => {
  const root = folder();
  const box = new Letterbox(root);
  await box.waiting(JOB);
  const inbox = join(root, 'Skerrow Light Trust', 'in');
  writeFileSync(join(root, 'secret.txt'), 'secret');
  symlinkSync(join(root, 'secret.txt'), join(inbox, 'link.jpg'));
  writeFileSync(join(inbox, '.hidden'), 'h');
  for (const name of ['../../secret.txt', 'link.jpg', '.hidden', '', '.'])
    await expect(box.take(JOB, name, () => Promise.resolve())).rejects.toThrow('no longer in the letterbox');
});

test('names of 80 letters with umlauts stay distinct files, with their endings', async () => {
  const box = new Letterbox(folder());
  const long = { client: 'Ä'.repeat(80), name: 'ö'.repeat(80) };
  const names = [1, 2, 3].map(
    (n) =>
      `${fileNameFrom('{client} {job} {picture} v{version}', { client: long.client, job: long.name, picture: `${'ü'.repeat(79)}${n}`, version: n, date: '2026-12-02' })}.tif`,
  );
  expect(new Set(names).size).toBe(3);
  const put: string[] = [];
  for (const name of names) for (const file of [name, `${name}.record.json`]) put.push(await box.put(long, file, file));
  expect(new Set(put).size).toBe(6);
  expect(await box.lying(long, put)).toBe(6);
  for (const file of put) {
    expect(Buffer.byteLength(file)).toBeLessThanOrEqual(255);
    expect(file).toMatch(/v\d\.tif(\.record\.json)?$/);
  }
});

test('what was taken in before stays when another file of its name comes', async () => {
  const root = folder();
  const box = new Letterbox(root);
  await box.waiting(JOB);
  const inbox = join(root, 'Skerrow Light Trust', 'in');
  for (const text of ['first', 'second']) {
    writeFileSync(join(inbox, 'a.jpg'), text);
    await box.take(JOB, 'a.jpg', () => Promise.resolve());
  }
  expect(readFileSync(join(inbox, 'taken', 'a.jpg'), 'utf8')).toBe('first');
  expect(readFileSync(join(inbox, 'taken', 'a (2).jpg'), 'utf8')).toBe('second');
});

test('a file is taken in once, however often that is asked at a time, and stays where it could not be', async () => {
  const root = folder();
  const box = new Letterbox(root);
  await box.waiting(JOB);
  const inbox = join(root, 'Skerrow Light Trust', 'in');
  writeFileSync(join(inbox, 'a.jpg'), 'a');
  // The second asks while the first is in the middle of it, however busy the machine is.
  const slow = box.take(JOB, 'a.jpg', async () => {
    await expect(box.take(JOB, 'a.jpg', () => Promise.resolve())).rejects.toThrow('being taken in already');
  });
  await slow;
  writeFileSync(join(inbox, 'b.jpg'), 'b');
  await expect(box.take(JOB, 'b.jpg', () => Promise.reject(new Error('no picture')))).rejects.toThrow('no picture');
  expect((await box.waiting(JOB)).map((w) => w.name)).toEqual(['b.jpg']);
});

test('a name that is no UTF-8 is listed and can be taken', async () => {
  const root = folder();
  const box = new Letterbox(root);
  await box.waiting(JOB);
  const raw = Buffer.concat([
    Buffer.from(`${join(root, 'Skerrow Light Trust', 'in')}/`),
    Buffer.from([0x66, 0xfc, 0x72, 0x2e, 0x6a, 0x70, 0x67]),
  ]);
  writeFileSync(raw, 'grey');
  expect(await box.waiting(JOB)).toEqual([{ name: 'für.jpg', bytes: 4 }]);
  expect(await box.take(JOB, 'für.jpg', (path) => Promise.resolve(readFileSync(path, 'utf8')))).toBe('grey');
  expect(await box.waiting(JOB)).toEqual([]);
});

test('a file in the place of a folder is said so, without naming places on the server', async () => {
  const root = folder();
  const box = new Letterbox(root);
  writeFileSync(join(root, 'Skerrow Light Trust'), 'in the way');
  for (const said of [box.put(JOB, 'a.png', 'x'), box.waiting(JOB)]) {
    const error = await said.then(
      () => null,
      (e: Error) => e,
    );
    expect(error?.message).toMatch(/^The letterbox cannot be .* in the place of its folder/);
    expect(error?.message).not.toContain(root);
  }
});
