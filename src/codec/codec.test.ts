import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode as decodePng, encode as encodePng } from 'fast-png';
import sharp from 'sharp';
import { createRaster, type Channels, type Depth } from '../core/raster/raster.ts';
import { checkFile, decodeFile, factsOf, jpegQuality } from './decode.ts';
import { encode } from './encode.ts';
import { limitsFrom, Refused } from './limits.ts';

const limits = limitsFrom({});

function noisy(width: number, height: number, channels: Channels, depth: Depth) {
  const raster = createRaster(width, height, channels, depth);
  for (let i = 0; i < raster.data.length; i++) raster.data[i] = (i * 2654435761) >>> (depth === 16 ? 13 : 21);
  return raster;
}

const KINDS: Array<[Channels, Depth]> = [
  [1, 8],
  [3, 8],
  [4, 8],
  [1, 16],
  [3, 16],
  [4, 16],
  [2, 8],
];

describe('pixels in and out', () => {
  test.each(KINDS)(
    'PNG with %i channels at %i bit, written by another library, is read bit for bit',
    async (channels, depth) => {
      const raster = noisy(37, 23, channels, depth);
      const file = encodePng({ width: 37, height: 23, data: raster.data, channels, depth });
      const { raster: read } = await decodeFile(Buffer.from(file), limits);
      expect([read.width, read.height, read.channels, read.depth]).toEqual([37, 23, channels, depth]);
      expect([...read.data]).toEqual([...raster.data]);
    },
  );

  test.each(KINDS)(
    'what is written with %i channels at %i bit another library reads bit for bit (PNG), and TIFF comes back',
    async (channels, depth) => {
      const raster = noisy(41, 29, channels, depth);
      const png = decodePng(await encode(raster, 'png', { ppi: 300 }));
      expect([png.width, png.channels, png.depth]).toEqual([41, channels, depth]);
      expect([...png.data]).toEqual([...raster.data]);
      const { raster: tiff, ppi } = await decodeFile(await encode(raster, 'tiff', { ppi: 300 }), limits);
      expect([tiff.channels, tiff.depth]).toEqual([channels, depth]);
      expect([...tiff.data]).toEqual([...raster.data]);
      expect(ppi).toBeCloseTo(300, 0);
    },
  );

  test('profile, resolution and EXIF travel with the pixels, and the profile never changes their values', async () => {
    const base = await sharp({ create: { width: 30, height: 20, channels: 3, background: '#3a7f21' } })
      .withIccProfile('p3')
      .withMetadata({ density: 240, exif: { IFD0: { Artist: 'A. Keeper' } }, icc: 'p3' } as never)
      .jpeg({ quality: 95 })
      .toBuffer();
    const decoded = await decodeFile(base, limits);
    expect(decoded.icc!.length).toBeGreaterThan(300);
    for (const format of ['png', 'tiff', 'jpeg'] as const) {
      const file = await encode(decoded.raster, format, decoded);
      const again = await decodeFile(file, limits);
      expect(again.icc!.equals(decoded.icc!)).toBe(true);
      expect(again.ppi).toBeCloseTo(240, 0);
      if (format !== 'jpeg') expect(Buffer.from(again.raster.data).equals(Buffer.from(decoded.raster.data))).toBe(true);
      if (format !== 'tiff') expect(again.exif!.includes('A. Keeper')).toBe(true);
    }
  });

  test('EXIF orientation is applied, once', async () => {
    const raster = noisy(24, 16, 3, 8);
    const turned = await sharp(Buffer.from(raster.data), { raw: { width: 24, height: 16, channels: 3 } })
      .withMetadata({ orientation: 6 })
      .png()
      .toBuffer();
    const decoded = await decodeFile(turned, limits);
    expect([decoded.raster.width, decoded.raster.height]).toEqual([16, 24]);
    // A quarter turn clockwise: the old left column becomes the top row, from the bottom up.
    expect(decoded.raster.data[0]).toBe(raster.data[15 * 24 * 3]);
    const again = await decodeFile(await encode(decoded.raster, 'png', decoded), limits);
    expect([again.raster.width, again.raster.height]).toEqual([16, 24]);
  });

  test('bitmaps are read', async () => {
    const width = 6;
    const height = 4;
    const file = Buffer.alloc(54 + 20 * height);
    file.write('BM', 0, 'latin1');
    file.writeUInt32LE(file.length, 2);
    file.writeUInt32LE(54, 10);
    file.writeUInt32LE(40, 14);
    file.writeInt32LE(width, 18);
    file.writeInt32LE(height, 22);
    file.writeUInt16LE(1, 26);
    file.writeUInt16LE(24, 28);
    // Rows from the bottom, blue first, padded to four bytes.
    file.set([10, 20, 30], 54 + 20 * 3);
    const { raster } = await decodeFile(file, limits);
    expect([raster.width, raster.height]).toEqual([width, height]);
    expect([...raster.data.subarray(0, 3)]).toEqual([30, 20, 10]);
  });
});

describe('refusals name what is wrong and what to do', () => {
  const refusal = async (file: Buffer, l = limits) => {
    try {
      await decodeFile(file, l);
    } catch (error) {
      expect(error).toBeInstanceOf(Refused);
      return (error as Refused).message;
    }
    throw new Error('was taken in');
  };
  test('empty, wrong type, cut short', async () => {
    expect(await refusal(Buffer.alloc(0))).toMatch(/empty/);
    expect(await refusal(Buffer.from('Dear Sir, please find attached'))).toMatch(/JPEG, PNG, TIFF/);
    const svg = Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>');
    expect(await refusal(svg)).toMatch(/not taken in/);
    const noise = Buffer.from(noisy(200, 200, 3, 8).data);
    const whole = sharp(noise, { raw: { width: 200, height: 200, channels: 3 } });
    for (const file of [
      await whole.clone().jpeg().toBuffer(),
      await whole.clone().png().toBuffer(),
      await whole.clone().webp().toBuffer(),
    ]) {
      expect(await refusal(file.subarray(0, file.length >> 1))).toMatch(/damaged/);
    }
  });
  test('CMYK, animation, too many pixels (with the figure)', async () => {
    const cmyk = await sharp({ create: { width: 8, height: 8, channels: 3, background: 'red' } })
      .toColourspace('cmyk')
      .jpeg()
      .toBuffer();
    expect(await refusal(cmyk)).toMatch(/CMYK/);
    const frame = { create: { width: 8, height: 8, channels: 3, background: 'red' } } as const;
    const other = { create: { width: 8, height: 8, channels: 3, background: 'blue' } } as const;
    const frames = await Promise.all([frame, other].map((f) => sharp(f).png().toBuffer()));
    const animated = await sharp(frames, { join: { animated: true } })
      .webp()
      .toBuffer();
    expect(await refusal(animated)).toMatch(/animated/);
    const small = await sharp({ create: { width: 2000, height: 1500, channels: 3, background: 'red' } })
      .png()
      .toBuffer();
    expect(await refusal(small, { megapixels: 2, megabytes: 10 })).toMatch(
      /2000 × 1500 px \(3\.0 megapixels\); at most 2 /,
    );
  });
  test('absurd dimensions in a tiny file are refused before anything is decoded', async () => {
    const png = Buffer.from(encodePng({ width: 4, height: 4, data: new Uint8Array(48), channels: 3, depth: 8 }));
    png.writeUInt32BE(900000, 16);
    png.writeUInt32BE(900000, 20);
    const started = Date.now();
    expect(await refusal(png)).toMatch(/megapixels|damaged/);
    expect(Date.now() - started).toBeLessThan(10_000);
  });
});

test('facts: JPEG quality as it was set, clipping counted', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'tersum-facts-'));
  for (const quality of [50, 75, 92]) {
    const file = await sharp(Buffer.from(noisy(64, 64, 3, 8).data), { raw: { width: 64, height: 64, channels: 3 } })
      .jpeg({ quality })
      .toBuffer();
    expect(Math.abs(jpegQuality(file)! - quality)).toBeLessThanOrEqual(1);
  }
  const raster = createRaster(10, 10, 3, 8);
  raster.data.fill(100);
  raster.data.fill(0, 0, 30);
  raster.data.fill(255, 30, 45);
  const path = join(folder, 'a.png');
  writeFileSync(path, await encode(raster, 'png', { ppi: 600 }));
  const facts = factsOf(await decodeFile(path, limits), path, 'a.png');
  expect(facts).toMatchObject({ width: 10, height: 10, depth: 8, mode: 'RGB', clippedDark: 0.1, clippedLight: 0.05 });
  expect(facts.ppi).toBeCloseTo(600, 0);
});

describe('looking at the head of a file', () => {
  const folder = mkdtempSync(join(tmpdir(), 'tersum-head-'));
  const file = (name: string, bytes: Uint8Array | string) => {
    const path = join(folder, name);
    writeFileSync(path, bytes);
    return path;
  };
  const limits = { megapixels: 1, megabytes: 10 };

  test('lets pass what can be decoded, and anything whose fault only its pixels show', async () => {
    const png = await sharp({ create: { width: 40, height: 30, channels: 3, background: '#456' } })
      .png()
      .toBuffer();
    await expect(checkFile(file('good.png', png), limits)).resolves.toBeUndefined();
    await expect(checkFile(file('cut.png', png.subarray(0, png.length - 20)), limits)).resolves.toBeUndefined();
  });

  test.each([
    ['an empty file', '', /empty/],
    ['a letter', 'Dear Trust, please find enclosed nothing.', /not a picture/],
    ['a drawing', '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>', /SVG file is not taken in/],
  ])('%s is refused with what to do', async (name, text, says) => {
    await expect(checkFile(file(name, text), limits)).rejects.toThrow(says);
  });

  test('too many pixels are refused with both figures', async () => {
    const large = await sharp({ create: { width: 2000, height: 900, channels: 3, background: '#456' } })
      .jpeg()
      .toBuffer();
    await expect(checkFile(file('large.jpg', large), limits)).rejects.toThrow(/1\.8 megapixels.*at most 1 /);
  });
});
