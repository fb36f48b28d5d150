import fc from 'fast-check';
import { fileNameFrom, freeName, safeFileName, safeName, unknownWords } from './file-names.ts';

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

  test('of a long name the longest words are shortened, never version and date', () => {
    const long = { ...PARTS, client: 'Ä'.repeat(80), job: 'ö'.repeat(80), picture: 'ü'.repeat(80) };
    const name = fileNameFrom('{client} {job} {picture} v{version} {date}', long);
    expect(new TextEncoder().encode(name).length).toBeLessThanOrEqual(200);
    expect(name).toMatch(/^Ä+ ö+ ü+ v3 2026-11-27$/);
  });

  test('endings stay, and a number goes before them', () => {
    const whole = safeFileName(`${'ß'.repeat(300)}.tif.record.json`);
    expect(new TextEncoder().encode(whole).length).toBeLessThanOrEqual(240);
    expect(whole).toMatch(/ß\.tif\.record\.json$/);
    const taken = new Set(['a.png', 'a (2).png']);
    expect(freeName('a.png', (n) => taken.has(n))).toBe('a (3).png');
  });

  test('any text makes a name that can be written as UTF-8 and has no place in it', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 400 }), (text) => {
        const name = safeFileName(text);
        expect(Buffer.from(name, 'utf8').toString('utf8')).toBe(name);
        expect(Buffer.byteLength(name)).toBeLessThanOrEqual(241);
        // eslint-disable-next-line no-control-regex
        expect(name).not.toMatch(/[/\\\u0000-\u001f]/);
        expect(['.', '..', '']).not.toContain(name);
      }),
    );
  });
});
