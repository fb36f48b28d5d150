import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
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
  // Sent again it is replaced, and nothing half written stays.
  await box.put(JOB, 'note.txt', 'Again');
  expect(readFileSync(join(out, 'note.txt'), 'utf8')).toBe('Again');
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
  expect(await box.pathOf(JOB, 'b.jpg')).toBe(join(inbox, 'b.jpg'));
  await box.taken(JOB, 'b.jpg');
  expect(existsSync(join(inbox, 'taken', 'b.jpg'))).toBe(true);
  expect((await box.waiting(JOB)).map((w) => w.name)).toEqual(['a.jpg']);
  await expect(box.pathOf(JOB, 'b.jpg')).rejects.toThrow('This file is no longer in the letterbox.');
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
    await expect(box.pathOf(JOB, name)).rejects.toThrow('no longer in the letterbox');
});
