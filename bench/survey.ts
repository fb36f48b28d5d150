// npm run bench:survey : a whole survey of a 14-megapixel photograph, by the server on its threads and by the core on one.
import sharp from 'sharp';
import { TestServer } from '../e2e/server.ts';
import { survey } from '../src/core/find/survey.ts';
import { photograph } from './planted.ts';

const picture = await photograph('dust-bowl-home', 4350);
const megapixels = ((picture.width * picture.height) / 1e6).toFixed(1);
const server = new TestServer();
await server.start();
const file = await sharp(picture.data as Uint8Array, {
  raw: { width: picture.width, height: picture.height, channels: 3 },
})
  .png({ compressionLevel: 1 })
  .toBuffer();
const job = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Survey' });
const { id } = await server.json<{ id: string }>(`/jobs/${job.id}/pictures?name=survey.png`, 'POST', file);
await server.json(`/pictures/${id}`);
let started = performance.now();
await server.json(`/pictures/${id}/survey`, 'POST', {});
let found: { finds: unknown[] } | null = null;
while (!found) {
  await new Promise((resolve) => setTimeout(resolve, 200));
  found = await server.json<{ finds: unknown[] } | null>(`/pictures/${id}/survey`);
}
const threads = (performance.now() - started) / 1000;
await server.kill();
started = performance.now();
const alone = survey(picture);
const one = (performance.now() - started) / 1000;
console.log(
  `${megapixels} megapixels: server ${threads.toFixed(1)} s (${found.finds.length} finds), one thread ${one.toFixed(1)} s (${alone.length} finds); ratio ${(threads / one).toFixed(2)}`,
);
