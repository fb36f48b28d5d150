import { decode as decodePng, encode as encodePng } from 'fast-png';
import { limitsFrom } from '../codec/limits.ts';
import type { Fault, Layer, PictureDocument, Repair } from '../contract/document.ts';
import { EXPORTED } from '../contract/exports.ts';
import { USUAL_HAND_OVER } from '../contract/hand-over.ts';
import type { RepairRecord, Verification } from '../contract/record.ts';
import type { Facts } from '../contract/studio.ts';
import { beneathOf } from '../core/chain/chain.ts';
import type { Shape } from '../core/mask/shapes.ts';
import { createRaster, type Raster } from '../core/raster/raster.ts';
import { DEFAULT_FILL } from '../core/repair/fill/settings.ts';
import { dated, renderRepair } from '../core/repair/registry.ts';
import type { RepairSpec } from '../core/repair/spec.ts';
import { exportPicture } from '../server/deliver/export.ts';
import { recordCsv } from './csv.ts';
import { flatFile } from './flat.ts';
import { sealOf, sha256 } from './seal.ts';
import { verify } from './verify.ts';

const LIMITS = limitsFrom({});
const [W, H] = [160, 120];
const dab = (x: number, y: number, size: number): Shape[] => [{ op: 'add', kind: 'brush', points: [[x, y]], size }];

const original: Raster = createRaster(W, H, 3, 8);
for (let i = 0; i < W * H; i++)
  for (let c = 0; c < 3; c++)
    original.data[3 * i + c] = 90 + 20 * Math.sin((i % W) / 7) + 15 * c + (((i + c) * 2654435761) >>> 28);
const file = encodePng({ width: W, height: H, channels: 3, data: original.data });

const fillSpec = (shapes: Shape[], seed: number): RepairSpec =>
  dated({
    method: 'fill',
    ...DEFAULT_FILL,
    style: 'first',
    cover: shapes,
    margin: 2,
    feather: 2,
    donorArea: [],
    barred: [],
    avoid: [],
    seed,
  });
const SPECS: RepairSpec[] = [
  fillSpec(dab(40, 50, 14), 3),
  dated({
    method: 'patch',
    cover: dab(110, 60, 18),
    feather: 3,
    blended: true,
    donor: { from: [80, 90], at: [110, 60], travels: false, turn: 0, scale: 1, mirror: 'none' },
  }),
];
const faults = SPECS.map((_, n): Fault => ({
  id: `fault0000${n}`,
  number: n + 1,
  kind: n ? 'object' : 'speck',
  shapes: n ? dab(110, 60, 18) : dab(40, 50, 14),
  margin: 2,
  feather: 2,
  state: 'treated',
}));
const layers: Layer[] = [{ id: 'layer00001', name: 'Repairs', order: 1, opacity: 0.9, visible: true }];
const repairs = SPECS.map((spec, n): Repair => ({
  id: `repair000${n}`,
  layerId: layers[0].id,
  order: n + 1,
  faultIds: [faults[n].id],
  tries: [{ id: `try000000${n}`, spec }],
  chosen: `try000000${n}`,
  strength: n ? 0.8 : 1,
  visible: true,
}));
const document: PictureDocument = { faults, layers, repairs, steps: [] };
const facts = {
  fileName: 'dunes.png', format: 'png', bytes: file.length, width: W, height: H, channels: 3, depth: 8, mode: 'RGB',
  ppi: 300, profile: null, jpegQuality: null, clippedDark: 0, clippedLight: 0,
} satisfies Facts; // prettier-ignore

async function delivered(format: 'png' | 'tiff' | 'jpeg' | 'web' | 'ora') {
  const laid: Parameters<typeof beneathOf>[1][number][] = [];
  const own = repairs.map((repair) => {
    const spec = repair.tries[0].spec;
    const { patch } = renderRepair(beneathOf(original, laid, spec), spec);
    laid.push({ patch, strength: repair.strength * 0.9 });
    return { id: repair.id, patch, strength: repair.strength, visible: true, name: repair.id };
  });
  const job = { name: 'Dunes', client: 'Skerrow Light Trust', brief: '', policy: 'creative' as const, record: [] };
  const { bytes, record } = await exportPicture(
    {
      file,
      original,
      steps: [],
      layers: [{ name: 'Repairs', opacity: 0.9, visible: true, repairs: own }],
      format,
      handOver: { ...USUAL_HAND_OVER, editor: 'M. Aird' },
      sources: {
        software: 'Tersum 0.1.0', now: 1.79e12, job, handOver: { ...USUAL_HAND_OVER, editor: 'M. Aird' }, facts, document,
        original: sha256(file), findings: {}, times: new Map([[repairs[0].id, 1.789e12]]), minutes: 12.34,
      }, // prettier-ignore
      name: 'Dunes v1',
      version: 1,
      limits: LIMITS,
    },
    () => undefined,
  );
  return { bytes, record: record! };
}
const compare = (record: RepairRecord | string, bytes: Uint8Array, from: Uint8Array = file): Promise<Verification> =>
  verify(
    { original: from, record: typeof record === 'string' ? record : JSON.stringify(record), delivered: bytes },
    (picture, source, of) => flatFile(picture, source, of, LIMITS),
    LIMITS,
  );
const failed = ({ steps }: Verification) => steps.filter((s) => !s.agrees).map((s) => s.what);

describe('a repair record', () => {
  test('says what was done, where, how much of the picture, from where', async () => {
    const { record } = await delivered('png');
    expect(record.repairs.map((r) => [r.number, r.kinds, r.words, r.donor, r.strength])).toEqual([
      [1, ['speck'], 'filled, in large pieces', 'from around, searched', 1],
      [2, ['object'], 'patched', 'from 80, 90', 0.8],
    ]);
    // A disc of 14 px with a margin of 2 and half a feather of 2: about π × 10² px of 19,200.
    expect(record.repairs[0].area).toBeGreaterThan((100 * Math.PI * 9 ** 2) / (W * H));
    expect(record.repairs[0].area).toBeLessThan((100 * Math.PI * 11 ** 2) / (W * H));
    expect(record.repairs[0].at).toBe(new Date(1.789e12).toISOString());
    expect(record.original.sha256).toBe(sha256(file));
    expect(record.minutes).toBe(12.3);
    expect(record.sourceType).toMatch(/humanEdits$/);
    expect(record.disclosure).toBe(
      'Damage was repaired: 1 speck. What the picture shows was changed: 1 object removed. The places were restored from the picture itself; no generative model was used.',
    );
    const [head, first] = recordCsv(record).split('\r\n');
    expect(head).toContain('number,faults,kinds,method');
    expect(first).toContain('"filled, in large pieces"');
  });

  test.each(['png', 'tiff', 'jpeg', 'web', 'ora'] as const)('%s agrees with its record', async (format) => {
    const { bytes, record } = await delivered(format);
    expect(record.delivered.fileName).toBe(`Dunes v1.${EXPORTED[format].ending}`);
    const found = await compare(record, bytes);
    expect(failed(found)).toEqual([]);
    expect(found.agrees).toBe(true);
  });
});

describe('verification catches', () => {
  test('one changed pixel, and says which', async () => {
    const { bytes, record } = await delivered('png');
    const png = decodePng(bytes);
    (png.data as Uint8Array)[3 * (77 * W + 33) + 1] ^= 1;
    const changed = encodePng({ width: W, height: H, channels: 3, data: png.data });
    const found = await compare(record, changed);
    expect(failed(found)).toEqual(['Delivered file']);
    expect(found.differs).toEqual({ x: 33, y: 77, pixels: 1 });
  });

  test('one changed setting, even where the record was sealed again', async () => {
    const { bytes, record } = await delivered('png');
    const changed = structuredClone(record);
    changed.repairs[1].strength = 0.79;
    expect(failed(await compare(changed, bytes))).toEqual(expect.arrayContaining(['Record', 'Repairs']));
    changed.seal = sealOf(changed);
    const again = await compare(changed, bytes);
    expect(failed(again)).toEqual(['Repairs']);
    expect(again.agrees).toBe(false);
    // A word that changes no pixel shows by the seal.
    const reworded = structuredClone(record);
    reworded.editor = 'Somebody else';
    expect(failed(await compare(reworded, bytes))).toEqual(['Record']);
  });

  test('a swapped original', async () => {
    const { bytes, record } = await delivered('png');
    const data = Uint8Array.from(original.data as Uint8Array);
    data[0] ^= 1;
    const other = encodePng({ width: W, height: H, channels: 3, data });
    expect(failed(await compare(record, bytes, other))).toEqual(['Original']);
  });

  test('frames that are not those an original was joined from', async () => {
    const { bytes, record } = await delivered('png');
    const names = ['a.png', 'b.png'];
    const frames = names.map((fileName) => ({ fileName, sha256: sha256(fileName), used: true }));
    const joined = { frames, projection: 'auto' as const, software: 'Tersum 0.1.0', error: 0.1 };
    const changed = { ...record, original: { ...record.original, joined } };
    changed.seal = sealOf(changed);
    const unlooked = await compare(changed, bytes);
    expect(unlooked.agrees).toBe(true);
    expect(unlooked.steps[1].words).toContain('joined from a.png and b.png, which were not given');
    const given = (...texts: string[]) =>
      verify(
        { original: file, frames: texts.map((t) => Buffer.from(t)), record: JSON.stringify(changed), delivered: bytes },
        (picture, source, of) => flatFile(picture, source, of, LIMITS),
        LIMITS,
      );
    for (const [texts, words] of [
      [['a.png'], '1 were given, but it was joined from 2'],
      [['b.png', 'a.png'], 'Number 1 is not the file that was joined (a.png).'],
      [names, 'They cannot be joined again'],
    ] as const) {
      const found = await given(...texts);
      expect(failed(found)).toEqual(['Frames']);
      expect(found.steps[2].words).toContain(words);
    }
  });

  test('another file in its place, and what is written around the same pixels', async () => {
    const { record } = await delivered('jpeg');
    const { bytes: tiff } = await delivered('tiff');
    expect((await compare(record, tiff)).agrees).toBe(false);
    const png = await delivered('png');
    const bare = decodePng(png.bytes);
    const rewritten = encodePng({ width: W, height: H, channels: 3, data: bare.data });
    const found = await compare(png.record, rewritten);
    expect(found.agrees).toBe(true);
    expect(found.steps.at(-1)!.words).toContain('what is written around them is not');
  });

  test('what is no record, in words', async () => {
    await expect(compare('nothing', file)).rejects.toThrow('The record is not JSON.');
    const { record } = await delivered('png');
    const { seal: _, ...unsealed } = record;
    await expect(compare(JSON.stringify(unsealed), file)).rejects.toThrow('The record cannot be read at seal');
  });
});
