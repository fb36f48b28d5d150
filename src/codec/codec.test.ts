import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { crc32 } from 'node:zlib';
import { decode as decodePng, encode as encodePng } from 'fast-png';
import sharp from 'sharp';
import { decode as decodeTiff } from 'tiff';
import { createRaster, type Channels, type Depth } from '../core/raster/raster.ts';
import { jpegWithExif, jpegWithResolution } from './attach.ts';
import { checkFile, decodeFile, factsOf, jpegQuality } from './decode.ts';
import { encode } from './encode.ts';
import { limitsFrom } from './limits.ts';
import { Refused } from '../contract/refused.ts';

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
      const png = decodePng(await encode(raster, 'png', { resolution: { x: 300, y: 300 } }));
      expect([png.width, png.channels, png.depth]).toEqual([41, channels, depth]);
      expect([...png.data]).toEqual([...raster.data]);
      const { raster: tiff, resolution } = await decodeFile(
        await encode(raster, 'tiff', { resolution: { x: 300, y: 300 } }),
        limits,
      );
      expect([tiff.channels, tiff.depth]).toEqual([channels, depth]);
      expect([...tiff.data]).toEqual([...raster.data]);
      expect(resolution!.x).toBeCloseTo(300, 0);
    },
  );

  test('profile, resolution and EXIF travel with the pixels, and the profile never changes their values', async () => {
    const base = await sharp({ create: { width: 30, height: 20, channels: 3, background: '#3a7f21' } })
      .withIccProfile('p3')
      .withMetadata({ density: 240, exif: { IFD0: { Artist: 'A. Keeper' } }, icc: 'p3' })
      .jpeg({ quality: 95 })
      .toBuffer();
    const decoded = await decodeFile(base, limits);
    expect(decoded.icc!.length).toBeGreaterThan(300);
    for (const format of ['png', 'tiff', 'jpeg'] as const) {
      const file = await encode(decoded.raster, format, decoded);
      const again = await decodeFile(file, limits);
      expect(again.icc!.equals(decoded.icc!)).toBe(true);
      expect(again.resolution!.x).toBeCloseTo(240, 0);
      if (format !== 'jpeg') expect(Buffer.from(again.raster.data).equals(Buffer.from(decoded.raster.data))).toBe(true);
      expect((format === 'tiff' ? file : again.exif!).includes('A. Keeper')).toBe(true);
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
});

describe('bitmaps', () => {
  /** A bitmap file. Source: the format's own layout: file header 14 bytes, then the information header, palette, rows from the bottom. */
  function bitmap(
    bits: number,
    width: number,
    rows: number[][],
    { palette = [] as number[][], headerSize = 40, alphaMask = 0 } = {},
  ): Buffer {
    const stride = Math.ceil((width * bits) / 32) * 4;
    const offset = 14 + headerSize + palette.length * 4;
    const file = Buffer.alloc(offset + stride * rows.length);
    file.write('BM', 0, 'latin1');
    file.writeUInt32LE(file.length, 2);
    file.writeUInt32LE(offset, 10);
    file.writeUInt32LE(headerSize, 14);
    file.writeInt32LE(width, 18);
    file.writeInt32LE(rows.length, 22);
    file.writeUInt16LE(1, 26);
    file.writeUInt16LE(bits, 28);
    file.writeInt32LE(11_811, 38);
    file.writeInt32LE(5_906, 42);
    file.writeUInt32LE(palette.length, 46);
    if (headerSize > 40) {
      file.writeUInt32LE(3, 30);
      [0xff0000, 0xff00, 0xff, alphaMask].forEach((mask, n) => file.writeUInt32LE(mask, 54 + 4 * n));
    }
    palette.forEach(([r, g, b], n) => file.set([b, g, r, 0], 14 + headerSize + n * 4));
    rows.forEach((row, y) => file.set(row, offset + (rows.length - 1 - y) * stride));
    return file;
  }
  const read = async (file: Buffer) => (await decodeFile(file, limits)).raster;
  const RED = [220, 20, 40];
  const SEA = [10, 120, 200];
  const SAND = [240, 220, 150];

  test('of 24 bit give their colours, from the bottom row up, and their resolution both ways', async () => {
    const { raster, resolution } = await decodeFile(
      bitmap(24, 2, [
        [40, 20, 220, 200, 120, 10],
        [0, 0, 0, 1, 2, 3],
      ]),
      limits,
    );
    expect([raster.width, raster.height, raster.channels]).toEqual([2, 2, 3]);
    expect([...raster.data]).toEqual([...RED, ...SEA, 0, 0, 0, 3, 2, 1]);
    expect(resolution).toEqual({ x: 300, y: 150.01 });
  });

  test.each([
    [1, [[0b01000000], [0b10000000]], [RED, SEA], [RED, SEA, SEA, RED]],
    [4, [[0x12], [0x20]], [RED, SEA, SAND], [SEA, SAND, SAND, RED]],
    [
      8,
      [
        [2, 1],
        [0, 2],
      ],
      [RED, SEA, SAND],
      [SAND, SEA, RED, SAND],
    ],
  ])(
    'with a palette at %i bit give the colours of the palette, not its numbers',
    async (bits, rows, palette, colours) => {
      const raster = await read(bitmap(bits, 2, rows, { palette }));
      expect(raster.channels).toBe(3);
      expect([...raster.data]).toEqual(colours.flat());
    },
  );

  test('with a palette of greys are grey, and black and white are 0 and 255', async () => {
    const white = [255, 255, 255];
    expect(await read(bitmap(1, 3, [[0b01000000]], { palette: [[0, 0, 0], white] }))).toMatchObject({
      channels: 1,
      width: 3,
    });
    expect([...(await read(bitmap(1, 3, [[0b01100000]], { palette: [white, [0, 0, 0]] }))).data]).toEqual([255, 0, 0]);
    const ramp = Array.from({ length: 256 }, (_, n) => [n, n, n]);
    expect([...(await read(bitmap(8, 3, [[7, 200, 31]], { palette: ramp }))).data]).toEqual([7, 200, 31]);
  });

  test('of 32 bit have alpha only where the file says so: spare bytes do not make a picture transparent', async () => {
    const rows = [[1, 2, 3, 0, 4, 5, 6, 0]];
    const plain = await read(bitmap(32, 2, rows));
    expect([plain.channels, ...plain.data]).toEqual([3, 3, 2, 1, 6, 5, 4]);
    const clear = await read(bitmap(32, 2, [[1, 2, 3, 77, 4, 5, 6, 255]], { headerSize: 108, alphaMask: 0xff000000 }));
    expect([clear.channels, ...clear.data]).toEqual([4, 3, 2, 1, 77, 6, 5, 4, 255]);
  });

  test('with a resolution that cannot be meant have none', async () => {
    const file = bitmap(24, 2, [[1, 2, 3, 4, 5, 6]]);
    file.writeUInt32LE(0xfffffff0, 38);
    const decoded = await decodeFile(file, limits);
    expect(decoded.resolution).toBeNull();
    expect((await decodeFile(await encode(decoded.raster, 'png', decoded), limits)).resolution).toBeNull();
  });

  test('that are cut short, or packed in a way that is not read, are refused in words', async () => {
    const whole = bitmap(24, 2, [[1, 2, 3, 4, 5, 6]]);
    await expect(read(whole.subarray(0, whole.length - 4))).rejects.toThrow(/bitmap cannot be read.*Save it as PNG/);
  });
});

describe('what travels with a file', () => {
  const pixels = { width: 24, height: 16, channels: 3 } as const;
  const photo = () => sharp(Buffer.from(noisy(24, 16, 3, 8).data), { raw: pixels });
  const u16 = (n: number) => [n & 255, n >> 8];
  const u32 = (n: number) => [n & 255, (n >> 8) & 255, (n >> 16) & 255, n >>> 24];
  const entry = (tag: number, type: number, count: number, value: number) => [
    ...u16(tag),
    ...u16(type),
    ...u32(count),
    ...u32(value),
  ];
  const text = (t: string) => [...Buffer.from(`${t}\0`)];

  /** An EXIF block with an author, a thumbnail of its own and, within its maker's notes, a preview. Source: Exif 2.3. */
  async function exifWithThumbnail() {
    const thumbnail = await photo().jpeg().toBuffer();
    const note = Buffer.concat([Buffer.from('MAKER'), thumbnail]);
    const bytes = [...Buffer.from('Exif\0\0II'), ...u16(42), ...u32(8)];
    // First directory at 8: author (10 bytes at 62), resolution (fractions), orientation, EXIF directory at 90.
    bytes.push(
      ...u16(5),
      ...entry(0x112, 3, 1, 6),
      ...entry(0x11a, 5, 1, 74),
      ...entry(0x11b, 5, 1, 82),
      ...entry(0x13b, 2, 10, 90),
      ...entry(0x8769, 4, 1, 100),
      ...u32(130),
    );
    bytes.push(...u32(300), ...u32(1), ...u32(150), ...u32(1), ...text('A. Keeper'));
    bytes.push(...u16(2), ...entry(0x927c, 7, note.length, 180), ...entry(0xa002, 4, 1, 24), ...u32(0));
    bytes.push(
      ...u16(2),
      ...entry(0x201, 4, 1, 180 + note.length),
      ...entry(0x202, 4, 1, thumbnail.length),
      ...u32(0),
      ...new Array(20).fill(0),
    );
    return { exif: Buffer.from([...bytes, ...note, ...thumbnail]), thumbnail };
  }

  test('no picture of what was removed leaves with an export: thumbnail and preview go, the rest stays', async () => {
    const { exif, thumbnail } = await exifWithThumbnail();
    const decoded = { raster: noisy(24, 16, 3, 8), icc: null, xmp: null, resolution: null, exif };
    const within = thumbnail.subarray(0, 40);
    expect(exif.includes(within)).toBe(true);
    for (const format of ['png', 'jpeg', 'tiff'] as const) {
      const file = await encode(decoded.raster, format, decoded);
      expect(file.includes('A. Keeper')).toBe(true);
      // The file's own beginning aside, no JPEG begins anywhere in it.
      expect(file.indexOf(Buffer.from([0xff, 0xd8, 0xff]), format === 'jpeg' ? 3 : 0)).toBe(-1);
      expect(file.includes(thumbnail.subarray(200, 240))).toBe(false);
      const again = await decodeFile(file, limits);
      expect([again.raster.width, again.raster.height]).toEqual([24, 16]);
    }
    const meta = await sharp(await encode(decoded.raster, 'jpeg', decoded)).metadata();
    expect(meta.orientation).toBe(1);
  });

  test('pictures within an XMP packet go, too', async () => {
    const xmp = Buffer.from(
      `<x:xmpmeta xmlns:x="adobe:ns:meta/"><a:Title>Skerrow</a:Title><xmp:Thumbnails><rdf:Alt><rdf:li><g:image>${'QUJD'.repeat(99)}</g:image></rdf:li></rdf:Alt></xmp:Thumbnails></x:xmpmeta>`,
    );
    const decoded = { icc: null, exif: null, resolution: null, xmp };
    const again = await decodeFile(await encode(noisy(24, 16, 3, 8), 'png', decoded), limits);
    expect(again.xmp!.includes('Skerrow')).toBe(true);
    expect(again.xmp!.includes('QUJDQUJD')).toBe(false);
  });

  test.each(['png', 'jpeg', 'tiff'] as const)(
    'a resolution stays as it is in %s, also where it differs across and down, and none is made up',
    async (format) => {
      const raster = noisy(24, 16, 3, 8);
      for (const resolution of [
        { x: 300, y: 300 },
        { x: 600, y: 150 },
      ]) {
        const again = await decodeFile(await encode(raster, format, { resolution }), limits);
        expect(again.resolution!.x).toBeCloseTo(resolution.x, 0);
        expect(again.resolution!.y).toBeCloseTo(resolution.y, 0);
        expect(again.exif).toBeNull();
      }
      expect((await decodeFile(await encode(raster, format, { resolution: null }), limits)).resolution).toBeNull();
    },
  );

  test('a PNG that names no resolution has none; a JPEG has that of its header; one on its side is turned with the picture', async () => {
    const bare = encodePng({ width: 4, height: 4, data: new Uint8Array(48), channels: 3, depth: 8 });
    expect((await decodeFile(Buffer.from(bare), limits)).resolution).toBeNull();
    const jpeg = jpegWithResolution(await photo().jpeg().toBuffer(), { x: 240, y: 120 });
    expect((await decodeFile(jpeg, limits)).resolution).toEqual({ x: 240, y: 120 });
    expect((await sharp(jpeg).metadata()).density).toBe(240);
    const { exif } = await exifWithThumbnail();
    const turned = await decodeFile(jpegWithExif(await photo().jpeg().toBuffer(), exif), limits);
    expect([turned.raster.width, turned.raster.height, turned.resolution]).toEqual([16, 24, { x: 150, y: 300 }]);
  });

  test('EXIF goes into TIFF where other libraries look for it', async () => {
    const { exif } = await exifWithThumbnail();
    for (const icc of [null, (await decodeFile(await photo().withIccProfile('p3').jpeg().toBuffer(), limits)).icc]) {
      const file = await encode(noisy(24, 16, 3, 8), 'tiff', { exif, icc, resolution: { x: 300, y: 300 } });
      const again = await decodeFile(file, limits);
      expect([...again.raster.data]).toEqual([...noisy(24, 16, 3, 8).data]);
      expect(Boolean(again.icc)).toBe(Boolean(icc));
      const [page] = decodeTiff(file) as unknown as Array<{
        fields: Map<number, unknown>;
        exif: { fields: Map<number, unknown> };
      }>;
      expect(page.fields.get(0x13b)).toBe('A. Keeper');
      expect(page.exif.fields.get(0xa002)).toBe(24);
    }
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
  /** A TIFF 6.0 of one grey strip a page, with further fields on each. */
  function tiff(pages: Array<{ fields?: Array<[number, number]>; channels?: number }>): Buffer {
    const parts: Buffer[] = [Buffer.from([0x49, 0x49, 42, 0, 8, 0, 0, 0])];
    let at = 8;
    pages.forEach(({ fields = [], channels = 1 }, n) => {
      const all: Array<[number, number]> = [
        [256, 2],
        [257, 2],
        [258, 8],
        [259, 1],
        [262, channels < 3 ? 1 : 2],
        [273, 0],
        [277, channels],
        [278, 2],
        [279, 4 * channels],
        ...fields,
      ];
      const own = new Map(all);
      const length = 2 + own.size * 12 + 4 + 4 * channels;
      own.set(273, at + length - 4 * channels);
      const b = Buffer.alloc(length);
      b.writeUInt16LE(own.size, 0);
      [...own]
        .sort(([a], [c]) => a - c)
        .forEach(([tag, value], i) => {
          b.writeUInt16LE(tag, 2 + i * 12);
          b.writeUInt16LE(4, 4 + i * 12);
          b.writeUInt32LE(1, 6 + i * 12);
          b.writeUInt32LE(value, 10 + i * 12);
        });
      if (n < pages.length - 1) b.writeUInt32LE(at + length, length - 4 * channels - 4);
      parts.push(b);
      at += length;
    });
    return Buffer.concat(parts);
  }

  test('several pages, several frames, five channels, alpha multiplied in, Lab: each with what it is and what to do', async () => {
    expect((await decodeFile(tiff([{}]), limits)).raster).toMatchObject({ width: 2, height: 2, channels: 1 });
    expect(await refusal(tiff([{}, {}, {}]))).toMatch(/has 3 pages\. Export the one/);
    // A smaller copy of the same picture is no page of its own.
    expect((await decodeFile(tiff([{}, { fields: [[254, 1]] }]), limits)).raster.width).toBe(2);
    expect(await refusal(tiff([{ channels: 5 }]))).toMatch(/5 channels\. Save it as grey or RGB/);
    expect(await refusal(tiff([{ channels: 2, fields: [[338, 1]] }]))).toMatch(/multiplied into its colours.*straight/);
    expect(await refusal(tiff([{ channels: 3, fields: [[262, 8]] }]))).toMatch(
      /“lab” is not read\. Convert the file to RGB/i,
    );
    const png = Buffer.from(encodePng({ width: 4, height: 4, data: new Uint8Array(48), channels: 3, depth: 8 }));
    const frames = Buffer.from([0, 0, 0, 8, 0x61, 0x63, 0x54, 0x4c, 0, 0, 0, 3, 0, 0, 0, 0, 0, 0, 0, 0]);
    frames.writeUInt32BE(crc32(frames.subarray(4, 16)), 16);
    expect(await refusal(Buffer.concat([png.subarray(0, 33), frames, png.subarray(33)]))).toMatch(/animated/);
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
  writeFileSync(path, await encode(raster, 'png', { resolution: { x: 600, y: 600 } }));
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
