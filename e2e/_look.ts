import { chromium } from '@playwright/test';
import { TestServer } from './server.ts';
const server = new TestServer(undefined, {});
await server.start();
const jobs = await server.json<any[]>('/jobs');
const ids: Record<string, string> = {};
for (const j of jobs) for (const p of j.pictures) ids[p.name] = p.id;
console.log(Object.keys(ids));
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on('pageerror', (e) => console.log('ERR', e.message));
for (const name of ['headland.jpg', 'cottage.jpg', 'garden.jpg']) {
  await page.goto(`${server.address}/pictures/${ids[name]}/check`);
  await page.waitForTimeout(9000);
  const s = await server.json<any>(`/pictures/${ids[name]}`);
  for (const st of s.statuses) console.log(name, st.state, JSON.stringify(Object.values(st.tries).map((t: any) => t.signs?.map((x: any) => x.kind + ' ' + x.figure.toFixed(1) + ' d' + x.difference.toFixed(1)))));
  await page.screenshot({ path: `/tmp/check-${name}.png` });
}
await browser.close();
await server.kill();
process.exit(0);
