// npm run bench:many: a picture with 2,000 repairs and 5,000 faults (`npx tsx bench/many.ts N` makes N repairs). How long an edit
// takes to be answered and how much is sent, and what 2,000 strokes of 150 points take in room and time. Aims in brackets.
import { existsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { encode } from 'fast-png';
import type { PictureState } from '../src/contract/api.ts';
import { closeUpReady } from '../e2e/bench.ts';
import { TestServer } from '../e2e/server.ts';
import { framesOf } from './frames.ts';

const median = (list: number[]) => list.slice().sort((a, b) => a - b)[list.length >> 1];
const show = (n: number, places = 1) => n.toFixed(places);
let missed = 0;
const aim = (name: string, value: number, most: number, unit: string) => {
  if (value > most) missed++;
  console.log(`${name}: ${show(value)} ${unit} (at most ${most})${value > most ? '  MISSED' : ''}`);
};

const [width, height] = [2400, 1800];
const noise = () => {
  const data = new Uint8Array(width * height * 3);
  for (let i = 0; i < data.length; i++) data[i] = 110 + 30 * Math.sin(i / 9000) + (((i * 2654435761) >>> 9) % 24);
  return encode({ width, height, data, channels: 3 });
};

async function settled(server: TestServer, id: string): Promise<PictureState> {
  for (;;) {
    const state = await server.json<PictureState>(`/pictures/${id}`);
    if (state.statuses.every((s) => s.state === 'shown' || s.state === 'failed')) return state;
    await new Promise((resolve) => setTimeout(resolve, 500));
  }
}

/** Sends an edit as the interface does; how long until it is answered, and with how many bytes. */
async function timed(server: TestServer, path: string, body?: object): Promise<{ ms: number; bytes: number }> {
  const t = performance.now();
  const response = await fetch(`${server.address}/api${path}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: body && JSON.stringify(body),
  });
  const text = await response.text();
  if (!response.ok) throw new Error(text);
  return { ms: performance.now() - t, bytes: text.length };
}

/** Frames while the worklist of the bench is scrolled, beside those of an empty page. */
async function scrolling(server: TestServer, id: string): Promise<void> {
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking'],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  // The loader that runs this file wraps named functions, also those that are sent to the page.
  await page.addInitScript('globalThis.__name = (f) => f');
  await page.goto('about:blank');
  const empty = median(await framesOf(page, () => page.waitForTimeout(2000)));
  await page.goto(`${server.address}/pictures/${id}/bench`);
  await closeUpReady(page);
  await page.waitForTimeout(2000);
  const list = (await page.getByRole('region', { name: 'Worklist' }).boundingBox())!;
  await page.mouse.move(list.x + 60, list.y + list.height / 2);
  const scrolled = median(
    await framesOf(page, async () => {
      for (let n = 0; n < 80; n++) {
        await page.mouse.wheel(0, 240);
        await page.waitForTimeout(25);
      }
    }),
  );
  aim('scrolling the worklist, median frame against an empty page', scrolled / empty, 1.2, 'times');
  const drawn = await page.locator('li[data-id]').count();
  console.log(`${drawn} rows are drawn`);
  await browser.close();
}

const server = new TestServer();
await server.start();
const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Many' });
const picture = async (name: string) =>
  (await server.json<{ id: string }>(`/jobs/${job}/pictures?name=${name}`, 'POST', noise())).id;
const speck = (n: number) => {
  const [x, y] = [12 + ((n * 31) % 2376), 12 + 23 * Math.floor((n * 31) / 2376)];
  return { kind: 'speck', shapes: [{ op: 'add', kind: 'brush', points: [[x, y]], size: 6 }] };
};

{
  const id = await picture('many.png');
  for (let n = 0; n < 5000; n += 1000)
    await server.json(`/pictures/${id}/edits`, 'POST', {
      type: 'addFaults',
      faults: Array.from({ length: 1000 }, (_, i) => speck(n + i)),
    });
  const { document } = await server.json<PictureState>(`/pictures/${id}`);
  const started = performance.now();
  const faultIds = document.faults.slice(0, Number(process.argv[2] ?? 2000)).map((f) => f.id);
  await server.json(`/pictures/${id}/treat`, 'POST', { faultIds });
  const state = await settled(server, id);
  console.log(
    `${state.document.repairs.length} repairs made in ${show((performance.now() - started) / 1000)} s, ${state.document.faults.length} faults`,
  );
  const edits: Record<string, (n: number) => object> = {
    'mark a fault': (n) => ({ type: 'addFault', ...speck(5100 + n) }),
    'set a strength': (n) => ({
      type: 'changeRepair',
      id: state.document.repairs[(n * 37) % state.document.repairs.length].id,
      set: { strength: 0.5 + n / 100 },
    }),
    'change a margin': (n) => ({
      type: 'changeFault',
      id: state.document.faults[3000 + n].id,
      set: { margin: 3 + (n % 3) },
    }),
  };
  for (const [name, edit] of Object.entries(edits)) {
    const all: Array<{ ms: number; bytes: number }> = [];
    for (let n = 0; n < 30; n++) all.push(await timed(server, `/pictures/${id}/edits`, edit(n)));
    aim(`${name}, median`, median(all.map((a) => a.ms)), 50, 'ms');
    aim(`${name}, sent at most`, Math.max(...all.map((a) => a.bytes)) / 1000, 20, 'kB');
  }
  const undone: number[] = [];
  for (let n = 0; n < 30; n++) undone.push((await timed(server, `/pictures/${id}/undo`)).ms);
  aim('undo, median', median(undone), 50, 'ms');
  await settled(server, id);
  await scrolling(server, id);
}

{
  const id = await picture('strokes.png');
  const stroke = (n: number) => ({
    points: Array.from({ length: 150 }, (_, i) => [
      300 + (n % 40) * 40 + i * 1.37,
      200 + Math.floor(n / 40) * 24 + 9 * Math.sin(i / 11),
      0.5 + i / 400,
    ]),
    size: 24,
    hardness: 0.7,
    flow: 0.7,
    opacity: 1,
    spacing: 0.12,
    pressure: 'none',
  });
  const donor = { from: [320, 260], at: [300, 200], turn: 0, scale: 1, mirror: 'none', travels: true };
  await server.json(`/pictures/${id}/edits`, 'POST', {
    type: 'placeRepair',
    spec: { method: 'copy', strokes: [stroke(0)], donor },
    faultIds: [],
    layerId: null,
  });
  const [repair] = (await settled(server, id)).document.repairs;
  const size = () =>
    ['studio.db', 'studio.db-wal'].reduce((sum, f) => {
      const path = join(server.data, f);
      return sum + (existsSync(path) ? statSync(path).size : 0);
    }, 0);
  const before = size();
  const times: number[] = [];
  let bytes = 0;
  for (let n = 1; n < 2000; n++) {
    const t = await timed(server, `/pictures/${id}/edits`, {
      type: 'addStrokes',
      id: repair.id,
      strokes: [stroke(n)],
    });
    times.push(t.ms);
    bytes = Math.max(bytes, t.bytes);
  }
  aim('2,000 strokes, store grows by', (size() - before) / 1e6, 25, 'MB');
  const [first, last] = [median(times.slice(0, 100)), median(times.slice(-100))];
  console.log(`a stroke is answered in ${show(first)} ms at first, ${show(last)} ms at last`);
  aim('the last strokes against the first', last / first, 1.5, 'times');
  aim('a stroke, sent at most', bytes / 1000, 20, 'kB');
  const t = performance.now();
  await settled(server, id);
  console.log(`then all is rendered after ${show((performance.now() - t) / 1000)} s`);
}
await server.kill('SIGTERM');
process.exitCode = missed ? 1 : 0;
