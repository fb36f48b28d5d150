import { Refused } from '../../contract/refused.ts';
import { hostName, onlyKnownHosts, onlyOwnPages } from './hosts.ts';
import { isLoopback, settingsFrom } from './settings.ts';

/** What a handler says of a request: nothing where it lets it through. */
function saidBy(handler: typeof onlyOwnPages, headers: Record<string, string | undefined>): string | undefined {
  let said: unknown;
  handler({ headers } as never, {} as never, (error?: unknown) => void (said = error));
  if (said !== undefined && !(said instanceof Refused)) throw new Error('not refused in words');
  return said?.message;
}

test.each([
  ['127.0.0.1:4173', '127.0.0.1'],
  ['localhost', 'localhost'],
  ['[::1]:80', '::1'],
  ['Studio.Example:1', 'studio.example'],
  ['two words', null],
  ['name:port', null],
  ['', null],
  [undefined, null],
])('the name in %p is %p', (header, name) => {
  expect(hostName(header)).toBe(name);
});

test('only known names are answered, with or without their port', () => {
  const handler = onlyKnownHosts(new Set(['localhost', 'studio.example:8080']));
  expect(saidBy(handler, { host: 'localhost:4173' })).toBeUndefined();
  expect(saidBy(handler, { host: 'LOCALHOST' })).toBeUndefined();
  expect(saidBy(handler, { host: 'studio.example:8080' })).toBeUndefined();
  expect(saidBy(handler, { host: 'studio.example' })).toMatch(/not asked under the name “studio.example”/);
  expect(saidBy(handler, { host: 'elsewhere.example' })).toMatch(/Add it to TERSUM_ALLOWED_HOSTS/);
  expect(saidBy(handler, {})).toMatch(/under the name “”/);
});

test('pages of other sites are turned away, whatever they call themselves', () => {
  const host = 'localhost:4173';
  expect(saidBy(onlyOwnPages, { host })).toBeUndefined();
  expect(saidBy(onlyOwnPages, { host, origin: 'http://localhost:4173' })).toBeUndefined();
  expect(saidBy(onlyOwnPages, { host, 'sec-fetch-site': 'same-origin' })).toBeUndefined();
  for (const headers of [
    { host, origin: 'http://localhost:1' },
    { host, origin: 'http://elsewhere.example' },
    { host, origin: 'null' },
    { host, 'sec-fetch-site': 'cross-site' },
    { host, origin: 'http://localhost:4173', 'sec-fetch-site': 'cross-site' },
  ])
    expect(saidBy(onlyOwnPages, headers)).toBe('Requests from other sites are not answered.');
});

test('where nothing is set only this machine is answered, on the usual port and without a password', () => {
  const { allowedHosts, ...rest } = settingsFrom({});
  expect(rest).toEqual({ host: '127.0.0.1', port: 4173, password: null, trustedProxies: [] });
  expect([...allowedHosts].sort()).toEqual(['127.0.0.1', '::1', 'localhost']);
  expect(['127.0.0.1', '127.8.9.1', '::1', 'localhost'].map(isLoopback)).toEqual([true, true, true, true]);
  expect(['0.0.0.0', '192.168.0.4', '127.example'].map(isLoopback)).toEqual([false, false, false]);
});

test('names are taken in small letters, by spaces or commas', () => {
  const { allowedHosts } = settingsFrom({ TERSUM_ALLOWED_HOSTS: 'Studio.example, other:8080  third' });
  for (const name of ['studio.example', 'other:8080', 'third', 'localhost']) expect(allowedHosts.has(name)).toBe(true);
});

test.each([
  [{ TERSUM_PORT: 'eighty' }, /TERSUM_PORT is “eighty”/],
  [{ TERSUM_PORT: '70000' }, /0 to 65535/],
  [{ TERSUM_PORT: '-1' }, /whole number/],
  [{ TERSUM_PASSWORD: 'short' }, /has 5 characters. Use at least 8/],
  [{ TERSUM_HOST: '0.0.0.0' }, /others would reach this server. Set TERSUM_PASSWORD too/],
])('%p is refused before anything is opened', (env, words) => {
  expect(() => settingsFrom(env)).toThrow(words);
});

test('others may reach it with a password', () => {
  const set = settingsFrom({ TERSUM_HOST: '0.0.0.0', TERSUM_PASSWORD: 'long enough', TERSUM_PORT: '0' });
  expect(set).toMatchObject({ host: '0.0.0.0', port: 0, password: 'long enough' });
});

test('proxies that are trusted are named by address', () => {
  expect(settingsFrom({ TERSUM_TRUSTED_PROXIES: 'loopback, 10.0.0.0/8' }).trustedProxies).toEqual([
    'loopback',
    '10.0.0.0/8',
  ]);
  expect(() => settingsFrom({ TERSUM_TRUSTED_PROXIES: 'everybody' })).toThrow(/holds “everybody”/);
});
