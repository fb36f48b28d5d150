import { openAsBlob } from 'node:fs';
import { basename } from 'node:path';
import { parseArgs } from 'node:util';
import type { Job } from '../contract/studio.ts';
import { UsageError } from './usage.ts';

const OPTIONS =
  'Options: --job NAME FILE… [--server http://127.0.0.1:4173]; a studio with a password reads it from TERSUM_PASSWORD.';

/** What a studio with a password knows this command by, once it is logged in. */
let cookie = '';

async function reach(url: string, init?: RequestInit): Promise<Response> {
  try {
    return await fetch(url, { ...init, headers: { ...init?.headers, ...(cookie && { cookie }) } });
  } catch {
    const { origin } = new URL(url);
    throw new UsageError(`No studio answers at ${origin}. Start it with npm start, or name it with --server.`);
  }
}

async function login(server: string, password: string): Promise<void> {
  const body = new URLSearchParams({ password });
  const response = await reach(`${server}/login`, { method: 'POST', body, redirect: 'manual' });
  if (response.status !== 303) throw new UsageError('TERSUM_PASSWORD is not the password of this studio.');
  cookie = response.headers
    .getSetCookie()
    .map((c) => c.split(';')[0])
    .join('; ');
}

async function ask<T>(server: string, path: string, init?: RequestInit): Promise<T> {
  const response = await reach(`${server}/api${path}`, init);
  const body = (await response.json().catch(() => ({}))) as T & { message?: string };
  if (!response.ok) throw new UsageError(body.message ?? `The studio answered ${response.status}.`);
  return body;
}

/** `tersum import`: hands files to a running studio, into the job of that name, which is made when there is none. */
export async function importCommand(args: string[]): Promise<object> {
  let parsed;
  try {
    parsed = parseArgs({
      args,
      allowPositionals: true,
      options: {
        job: { type: 'string' },
        server: { type: 'string', default: `http://127.0.0.1:${process.env.TERSUM_PORT ?? 4173}` },
      },
    });
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('\n')[0]} ${OPTIONS}`);
  }
  const { values, positionals } = parsed;
  if (!values.job) throw new UsageError(`--job is missing. ${OPTIONS}`);
  if (!positionals.length) throw new UsageError(`Name at least one file. ${OPTIONS}`);
  const { server } = values;
  const files = await Promise.all(
    positionals.map(async (path) => {
      try {
        return { name: basename(path), blob: await openAsBlob(path) };
      } catch {
        throw new UsageError(`${path} cannot be read.`);
      }
    }),
  );
  if (process.env.TERSUM_PASSWORD) await login(server, process.env.TERSUM_PASSWORD);
  const jobs = await ask<Job[]>(server, '/jobs');
  const job =
    jobs.find((j) => j.name === values.job) ??
    (await ask<{ id: string }>(server, '/jobs', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ name: values.job }),
    }));
  const pictures: Array<{ name: string; id: string }> = [];
  for (const { name, blob } of files) {
    const path = `/jobs/${job.id}/pictures?name=${encodeURIComponent(name)}`;
    try {
      pictures.push({ name, id: (await ask<{ id: string }>(server, path, { method: 'POST', body: blob })).id });
    } catch (error) {
      throw new UsageError(`${name}: ${(error as Error).message} (${pictures.length} of ${files.length} are in.)`);
    }
  }
  return { job: job.id, pictures };
}
