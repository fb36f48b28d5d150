import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { optionsOf, studioFile, UsageError } from './options.ts';

test('options and what else is named are read; every command takes --data', () => {
  const { values, positionals } = optionsOf(
    ['copy.db', '--data', '/somewhere', '--picture', 'p1'],
    { picture: { type: 'string' } },
    'Options: FILE',
  );
  expect({ ...values }).toEqual({ data: '/somewhere', picture: 'p1' });
  expect(positionals).toEqual(['copy.db']);
});

test('what is not known is told in one line, with what the command takes', () => {
  const read = () => optionsOf(['--pictures'], { picture: { type: 'string' } }, 'Options: [--picture ID]');
  expect(read).toThrow(UsageError);
  expect(read).toThrow(/^Unknown option '--pictures'[^\n]* Options: \[--picture ID\]$/);
});

test('the studio is the one in the folder that is named, or a sentence says that there is none', () => {
  const folder = mkdtempSync(join(tmpdir(), 'tersum-options-'));
  expect(() => studioFile(folder)).toThrow(`There is no studio at ${join(folder, 'studio.db')}. Name its folder`);
  writeFileSync(join(folder, 'studio.db'), '');
  expect(studioFile(folder)).toBe(join(folder, 'studio.db'));
  const before = process.env.TERSUM_DATA;
  process.env.TERSUM_DATA = folder;
  try {
    expect(studioFile(undefined)).toBe(join(folder, 'studio.db'));
  } finally {
    if (before === undefined) delete process.env.TERSUM_DATA;
    else process.env.TERSUM_DATA = before;
  }
});
