import { isIP } from 'node:net';
import { CannotStart } from '../studio.ts';

/** How the server is reached, from its environment. */
export interface ServerSettings {
  host: string;
  port: number;
  /** names, beside those of this machine itself, under which it may be asked */
  allowedHosts: ReadonlySet<string>;
  /** asked for before anything is answered; null: everybody who reaches the server may use it */
  password: string | null;
  /** addresses, or ranges of them, of proxies that say truly who asks */
  trustedProxies: string[];
}

const LOOPBACK = new Set(['localhost', '127.0.0.1', '::1']);
const LEAST_PASSWORD = 8;

/** Whether an address is reached from this machine alone. */
export const isLoopback = (host: string): boolean =>
  LOOPBACK.has(host) || (isIP(host) === 4 && host.startsWith('127.'));

/** Reads the settings. @throws CannotStart in a sentence that says what to set */
export function settingsFrom(env: Record<string, string | undefined>): ServerSettings {
  const host = env.TERSUM_HOST?.trim() || '127.0.0.1';
  const asked = env.TERSUM_PORT?.trim() || '4173';
  const port = Number(asked);
  if (!/^\d+$/.test(asked) || port > 65_535)
    throw new CannotStart(`TERSUM_PORT is “${asked}”. Set it to a whole number from 0 to 65535.`);
  const password = env.TERSUM_PASSWORD ?? null;
  if (password !== null && password.length < LEAST_PASSWORD)
    throw new CannotStart(`TERSUM_PASSWORD has ${password.length} characters. Use at least ${LEAST_PASSWORD}.`);
  if (!isLoopback(host) && !password)
    throw new CannotStart(
      `TERSUM_HOST is “${host}”: others would reach this server. Set TERSUM_PASSWORD too, which they are asked for, or leave TERSUM_HOST out.`,
    );
  const names = (env.TERSUM_ALLOWED_HOSTS ?? '').split(/[\s,]+/).filter(Boolean);
  const trustedProxies = (env.TERSUM_TRUSTED_PROXIES ?? '').split(/[\s,]+/).filter(Boolean);
  const wrong = trustedProxies.find((p) => !isIP(p.replace(/\/\d{1,3}$/, '')) && p !== 'loopback');
  if (wrong)
    throw new CannotStart(
      `TERSUM_TRUSTED_PROXIES holds “${wrong}”. Name addresses, such as 10.0.0.1, ranges, such as 10.0.0.0/8, or “loopback”.`,
    );
  return {
    host,
    port,
    password,
    trustedProxies,
    allowedHosts: new Set([...LOOPBACK, ...names.map((n) => n.toLowerCase())]),
  };
}
