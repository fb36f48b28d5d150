import { encode as encodePng } from 'fast-png';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import type { TestServer } from '../../../e2e/server.ts';
import { count, judge, newReport, seeded, type Report, type Seeded } from './report.ts';

const [WIDTH, HEIGHT] = [48, 36];

function png(channels: 1 | 2 | 3 | 4, depth: 8 | 16, n: number): Buffer {
  const data = depth === 16 ? new Uint16Array(WIDTH * HEIGHT * channels) : new Uint8Array(WIDTH * HEIGHT * channels);
  for (let i = 0; i < data.length; i++) data[i] = ((i + n) * 2654435761) >>> (depth === 16 ? 16 : 24);
  return Buffer.from(encodePng({ width: WIDTH, height: HEIGHT, data, channels, depth }));
}

function bitmap(bits: 1 | 8 | 24 | 32): Buffer {
  const stride = Math.ceil((WIDTH * bits) / 32) * 4;
  const palette = bits <= 8 ? 1 << bits : 0;
  const file = Buffer.alloc(54 + palette * 4 + stride * HEIGHT, 91);
  file.fill(0, 0, 54);
  file.write('BM', 0, 'latin1');
  [file.length, 0, 54 + palette * 4, 40, WIDTH, HEIGHT].forEach((v, n) => file.writeUInt32LE(v, 2 + 4 * n));
  file.writeUInt16LE(1, 26);
  file.writeUInt16LE(bits, 28);
  return file;
}

function openRaster(layers: number): Buffer {
  const rows = Array.from({ length: layers }, (_, n) => `<layer name="L${n}" src="data/${n}.png" x="${n}" y="2"/>`);
  const files: Parameters<typeof zipSync>[0] = {
    mimetype: [Buffer.from('image/openraster'), { level: 0 }],
    'stack.xml': Buffer.from(
      `<?xml version="1.0"?><image w="${WIDTH}" h="${HEIGHT}"><stack>${rows.join('')}</stack></image>`,
    ),
  };
  for (let n = 0; n < layers; n++) files[`data/${n}.png`] = png(4, 8, n);
  return Buffer.from(zipSync(files));
}

/** Good files of every kind that is taken in. */
export async function seeds(): Promise<Array<{ name: string; bytes: Buffer }>> {
  const out: Array<{ name: string; bytes: Buffer }> = [];
  for (const channels of [1, 2, 3, 4] as const)
    for (const depth of [8, 16] as const) {
      const file = png(channels, depth, channels * depth);
      out.push({ name: `${channels}-${depth}.png`, bytes: file });
      for (const compression of ['none', 'lzw', 'deflate', 'packbits'] as const) {
        const bytes = await sharp(file).toColourspace(depth === 16 ? (channels < 3 ? 'grey16' : 'rgb16') : channels < 3 ? 'b-w' : 'srgb').tiff({ compression }).toBuffer(); // prettier-ignore
        out.push({ name: `${channels}-${depth}-${compression}.tif`, bytes });
      }
    }
  const photo = () => sharp(png(3, 8, 5));
  for (const quality of [20, 60, 80, 95])
    out.push({ name: `${quality}.jpg`, bytes: await photo().jpeg({ quality }).toBuffer() });
  out.push({ name: 'progressive.jpg', bytes: await photo().jpeg({ progressive: true }).toBuffer() });
  out.push({
    name: 'turned.jpg',
    bytes: await photo().withMetadata({ orientation: 6, density: 200 }).jpeg().toBuffer(),
  });
  for (const lossless of [true, false])
    out.push({ name: `${lossless}.webp`, bytes: await photo().webp({ lossless }).toBuffer() });
  out.push({ name: 'palette.png', bytes: await photo().png({ palette: true }).toBuffer() });
  out.push({ name: 'interlaced.png', bytes: await photo().png({ progressive: true }).toBuffer() });
  for (const bits of [1, 8, 24, 32] as const) out.push({ name: `${bits}.bmp`, bytes: bitmap(bits) });
  for (const layers of [1, 2, 3, 5]) out.push({ name: `${layers}.ora`, bytes: openRaster(layers) });
  out.push({ name: 'profile.jpg', bytes: await photo().withIccProfile('p3').jpeg().toBuffer() });
  out.push({ name: 'profile.tif', bytes: await photo().withIccProfile('p3').tiff().toBuffer() });
  return out;
}

/** A file damaged by chance: bytes changed, cut, moved, numbers made huge. */
export function damaged(file: Buffer, random: Seeded): Buffer {
  let out = Buffer.from(file);
  for (let n = 1 + random.below(4); n > 0 && out.length > 2; n--) {
    const at = random.below(random.next() < 0.6 ? Math.min(out.length, 200) : out.length);
    const what = random.below(7);
    if (what === 0) out[at] = random.below(256);
    if (what === 1) out[at] ^= 1 << random.below(8);
    if (what === 2) out = out.subarray(0, Math.max(1, at));
    if (what === 3) out.fill(random.pick([0, 255, 127]), at, Math.min(out.length, at + 1 + random.below(8)));
    if (what === 4 && at + 4 < out.length) out.writeUInt32BE(random.pick([0xffffffff, 0x7fffffff, 0, 65_536, 1]), at);
    if (what === 5) out = Buffer.concat([out.subarray(0, at), out.subarray(at, at + 40), out.subarray(at)]);
    if (what === 6)
      out = Buffer.concat([out.subarray(0, at), out.subarray(Math.min(out.length, at + 1 + random.below(60)))]);
  }
  return out;
}

/** Damaged files handed in: each is refused in a sentence, or comes in and can be seen and exported. */
export async function damagedFiles(server: TestServer, times: number, seed = 1): Promise<Report> {
  const report = newReport('damaged files');
  const random = seeded(seed);
  const good = await seeds();
  report.counts.seeds = good.length;
  const { id: job } = await server.json<{ id: string }>('/jobs', 'POST', { name: 'Damaged' });
  for (let n = 0; n < times + good.length; n++) {
    // Each good one is handed in as it is, too: what refuses everything would pass otherwise.
    const { name, bytes } = n < good.length ? good[n] : random.pick(good);
    const file = n < good.length ? bytes : damaged(bytes, random);
    const started = performance.now();
    const response = await fetch(`${server.address}/api/jobs/${job}/pictures?name=${name}`, {
      method: 'POST',
      body: new Uint8Array(file),
    });
    const taken = response.status === 201 ? ((await response.clone().json()) as { id: string }).id : null;
    const problem = await judge(response, performance.now() - started, `${name} ${n}`);
    if (problem) report.problems.push(problem);
    if (n < good.length && !taken) report.problems.push(`${name} is good and was not taken in`);
    count(report, taken ? 'taken in' : 'refused');
    if (!taken) continue;
    const asks = [
      `/pictures/${taken}`,
      `/pictures/${taken}/tiles/repaired/x.0/0/0/0`,
      `/pictures/${taken}/export?format=png`,
      `/pictures/${taken}/export?format=ora`,
    ];
    for (const path of n % 5 ? asks.slice(0, 3) : asks) {
      const t = performance.now();
      const shown = await fetch(`${server.address}/api${path}`);
      const wrong =
        shown.status === 200
          ? await judge(shown, performance.now() - t, path)
          : `${name} ${n} came in, but ${path.split('?')[0]} answers ${shown.status}`;
      if (wrong) report.problems.push(wrong);
    }
    await server.json(`/pictures/${taken}`, 'DELETE');
  }
  await server.json(`/jobs/${job}`, 'DELETE');
  return report;
}
