import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { PictureState } from '../src/contract/api.ts';

/** Servers that run; none outlives the process that started it, even if that fails. */
const running = new Set<ChildProcess>();
process.on('exit', () => running.forEach((child) => child.kill('SIGKILL')));

/** A server of its own for a test, on a free port and an own data folder, which can be killed and started again. */
export class TestServer {
  address = '';
  private child: ChildProcess | undefined;

  constructor(
    readonly data = mkdtempSync(join(tmpdir(), 'tersum-data-')),
    private readonly env: Record<string, string> = { TERSUM_DEMO: 'off' },
  ) {}

  async start(): Promise<void> {
    const child = spawn(process.execPath, ['dist/server/main.js'], {
      env: { ...process.env, TERSUM_DATA: this.data, TERSUM_PORT: '0', ...this.env },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    this.child = child;
    running.add(child);
    child.once('exit', () => running.delete(child));
    let said = '';
    this.address = await new Promise<string>((resolve, reject) => {
      const hear = (chunk: Buffer) => {
        said += chunk.toString();
        const found = /http:\/\/\S+/.exec(said);
        if (found) resolve(found[0]);
      };
      child.stdout!.on('data', hear);
      child.stderr!.on('data', hear);
      child.on('exit', () => reject(new Error(`The server ended: ${said}`)));
    });
  }

  /** Ends the server at once, as a power cut would. */
  async kill(signal: NodeJS.Signals = 'SIGKILL'): Promise<void> {
    const child = this.child;
    if (!child || child.exitCode !== null) return;
    const gone = new Promise((resolve) => child.once('exit', resolve));
    child.kill(signal);
    await gone;
  }

  async restart(): Promise<void> {
    await this.kill();
    await this.start();
  }

  async json<T>(path: string, method = 'GET', body?: unknown): Promise<T> {
    const response = await fetch(`${this.address}/api${path}`, {
      method,
      headers: body === undefined || body instanceof Uint8Array ? {} : { 'Content-Type': 'application/json' },
      body: body === undefined ? undefined : body instanceof Uint8Array ? (body as never) : JSON.stringify(body),
    });
    const value = (await response.json()) as T & { message?: string };
    if (!response.ok) throw new Error(value.message);
    return value;
  }

  /** Makes an edit and reads the picture as it then is. */
  async edit(id: string, edit: object): Promise<PictureState> {
    await this.json(`/pictures/${id}/edits`, 'POST', edit);
    return this.json<PictureState>(`/pictures/${id}`);
  }

  async bytes(path: string): Promise<Buffer> {
    const response = await fetch(`${this.address}/api${path}`);
    if (!response.ok) throw new Error(`${response.status}`);
    return Buffer.from(await response.arrayBuffer());
  }
}
