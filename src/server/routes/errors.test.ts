import { z } from 'zod';
import { Refused } from '../../contract/refused.ts';
import { Cancelled } from '../work/work.ts';
import { refusalFor } from './errors.ts';

const schema = z.object({
  name: z.string().min(1).max(5),
  margin: z.number().min(0).max(200),
  ids: z.array(z.string()).min(2).max(3),
  way: z.enum(['smooth', 'seams']),
});
const GOOD = { name: 'a', margin: 1, ids: ['a', 'b'], way: 'smooth' };
const saidOf = (input: unknown) => {
  const { error } = schema.safeParse(input);
  return error && refusalFor(error as never);
};

test.each([
  [{ name: undefined }, 'name: is missing'],
  [{ name: 3 }, 'name: must be a string'],
  [{ ids: 'a' }, 'ids: must be an array'],
  [{ name: '' }, 'name: must not be empty'],
  [{ name: 'too long' }, 'name: must be at most 5 characters'],
  [{ margin: -1 }, 'margin: must be at least 0'],
  [{ margin: 900 }, 'margin: must be at most 200'],
  [{ ids: ['a'] }, 'ids: must be a list of at least 2'],
  [{ ids: ['a', 'b', 'c', 'd'] }, 'ids: must be at most 3 entries'],
  [{ way: 'magic' }, 'way: must be one of smooth, seams'],
])('%p is told as “%s”', (wrong, message) => {
  expect(saidOf({ ...GOOD, ...wrong })).toEqual({ status: 400, message });
});

test('what is no object at all is told too', () => {
  expect(saidOf('text')).toEqual({ status: 400, message: 'The request must be an object.' });
  expect(saidOf(GOOD)).toBeUndefined();
});

test('what was refused keeps its words and its status', () => {
  expect(refusalFor(new Refused('This job no longer exists.', 404))).toEqual({
    status: 404,
    message: 'This job no longer exists.',
  });
  expect(refusalFor(new Cancelled()).status).toBe(409);
});

test('errors of reading a request name no library', () => {
  const thrown = (more: object) => refusalFor(Object.assign(new Error('raw-body says: request entity'), more));
  expect(thrown({ type: 'entity.too.large', status: 413 })).toMatchObject({ status: 413 });
  expect(thrown({ type: 'entity.parse.failed', status: 400 }).message).toContain('no valid JSON');
  expect(thrown({ status: 418 })).toEqual({ status: 418, message: 'The request cannot be read. Send it again.' });
  expect(refusalFor(new URIError('URI malformed')).message).toContain('stray % signs');
  for (const { message } of [thrown({ type: 'entity.too.large' }), thrown({ statusCode: 400 })])
    expect(message).not.toMatch(/raw-body|entity/);
});

test('a full disk is said as such', () => {
  const full = Object.assign(new Error('ENOSPC: no space left on device, write'), { code: 'ENOSPC' });
  expect(refusalFor(full)).toMatchObject({ status: 507, message: expect.stringContaining('The disk is full') });
});

test('what nobody foresaw is logged under a name that the answer gives, and tells nothing else', () => {
  const logged = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  const { status, message } = refusalFor(new Error('/home/somebody/data is broken'));
  expect(status).toBe(500);
  expect(message).not.toContain('/home');
  const [entry] = /[0-9a-f]{6}/.exec(message)!;
  expect(logged.mock.calls[0][0]).toBe(`Error ${entry}:`);
  logged.mockRestore();
});
