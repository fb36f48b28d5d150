import { fileNameFrom, safeName, unknownWords } from './file-names.ts';

const PARTS = { client: 'Skerrow Light Trust', job: 'Headland', picture: 'dawn', version: 3, date: '2026-11-27' };

describe('file names', () => {
  test('words of a template stand for what they say', () => {
    expect(fileNameFrom('{client} {job} {picture} v{version} {date}', PARTS)).toBe(
      'Skerrow Light Trust Headland dawn v3 2026-11-27',
    );
  });

  test('an empty word leaves no gap, an unknown one stays and is named', () => {
    expect(fileNameFrom('{client} {job}', { ...PARTS, client: '' })).toBe('Headland');
    expect(fileNameFrom('{job} {colour}', PARTS)).toBe('Headland {colour}');
    expect(unknownWords('{job} {colour} {date}')).toEqual(['colour']);
  });

  test.each([
    ['../../etc/passwd', 'etc passwd'],
    ['a/b\\c:d*e?"f<g>h|i', 'a b c d e f g h i'],
    ['tab\tand\nline', 'tab and line'],
    ['  . hidden. ', 'hidden'],
    ['con', 'con_'],
    ['...', 'picture'],
    ['', 'picture'],
  ])('%j is made safe', (name, safe) => expect(safeName(name)).toBe(safe));

  test('a long name is cut between characters, in bytes', () => {
    const cut = safeName('ß'.repeat(400));
    expect(new TextEncoder().encode(cut).length).toBeLessThanOrEqual(200);
    expect(cut).toBe('ß'.repeat(100));
  });
});
