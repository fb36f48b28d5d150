import exifr from 'exifr';
import sharp from 'sharp';
import { createRaster } from '../core/raster/raster.ts';
import { readAccompanying } from './decode.ts';
import { encode } from './encode.ts';
import { iptcFields, jpegWithIptc } from './iptc.ts';
import { limitsFrom } from './limits.ts';
import { xmpWithProvenance, type Provenance } from './xmp.ts';

const LIMITS = limitsFrom({});
const TOLD: Provenance = {
  sourceType: 'http://cv.iptc.org/newscodes/digitalsourcetype/humanEdits',
  disclosure: 'A wire and a sign were removed.',
  editor: 'M. Aird',
  software: 'Tersum 0.1.0',
  when: '2026-11-27T10:00:00.000Z',
};
/** A caption, a credit and a keyword, as IPTC fields: record 2, data sets 120, 110, 25. Source: IPTC-NAA IIM 4. */
const field = (set: number, text: string) =>
  Buffer.concat([Buffer.from([0x1c, 2, set, 0, Buffer.byteLength(text)]), Buffer.from(text)]);
const FIELDS = Buffer.concat([
  field(25, 'coast'),
  field(110, 'Skerrow Light Trust'),
  field(120, 'The headland at dawn'),
]);
const OLD =
  '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">' +
  '<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmlns:Iptc4xmpExt="http://iptc.org/std/Iptc4xmpExt/2008-02-29/" xmp:Rating="4" Iptc4xmpExt:DigitalSourceType="http://cv.iptc.org/newscodes/digitalsourcetype/digitalCapture">' +
  '<dc:creator><rdf:Seq><rdf:li>Ines Holm</rdf:li></rdf:Seq></dc:creator></rdf:Description></rdf:RDF></x:xmpmeta><?xpacket end="w"?>';

const picture = createRaster(40, 30, 3, 8);
picture.data.fill(120);

describe('what metadata say of how a picture came about', () => {
  // Read back by a reader of its own (exifr).
  test.each(['png', 'tiff', 'jpeg'] as const)(
    '%s: source type and sentence stand beside all that was there',
    async (format) => {
      const file = await encode(picture, format, { xmp: Buffer.from(OLD), iptc: FIELDS, provenance: TOLD });
      const xmp = (await readAccompanying(file, LIMITS)).xmp!;
      const own = await exifr.parse(format === 'png' ? await encode(picture, 'jpeg', { xmp }) : file, {
        xmp: true,
        tiff: true,
        iptc: false,
        mergeOutput: true,
      });
      expect(own.DigitalSourceType).toBe(TOLD.sourceType);
      expect(own.description?.value ?? own.description).toBe(TOLD.disclosure);
      expect(own.Rating).toBe(4);
      expect(own.creator).toBe('Ines Holm');
      const text = xmp.toString('utf8');
      expect(text.match(/DigitalSourceType/g)).toHaveLength(2); // one element, opened and closed
      expect(text).toContain('<stEvt:parameters>A wire and a sign were removed. By M. Aird.</stEvt:parameters>');
    },
  );

  test('characters that mean something in XML are written as such', () => {
    const text = xmpWithProvenance(null, { ...TOLD, disclosure: 'Wires & <signs>' }).toString('utf8');
    expect(text).toContain('<stEvt:parameters>Wires &amp; &lt;signs&gt; By M. Aird.</stEvt:parameters>');
  });

  test('an edit history goes on', () => {
    const once = xmpWithProvenance(Buffer.from(OLD), TOLD);
    const twice = xmpWithProvenance(once, { ...TOLD, when: '2026-12-01T10:00:00.000Z' }).toString('utf8');
    expect(twice.match(/<xmpMM:History>/g)).toHaveLength(1);
    expect([...twice.matchAll(/<stEvt:when>([^<]*)</g)].map((m) => m[1])).toEqual([
      '2026-11-27T10:00:00.000Z',
      '2026-12-01T10:00:00.000Z',
    ]);
  });

  test('a description that was there stays; a file without a packet gets one', async () => {
    const told = OLD.replace('<dc:creator>', '<dc:description><rdf:Alt><rdf:li xml:lang="x-default">Dawn</rdf:li></rdf:Alt></dc:description><dc:creator>'); // prettier-ignore
    const kept = xmpWithProvenance(Buffer.from(told), TOLD).toString();
    expect(kept.match(/<dc:description>/g)).toHaveLength(1);
    expect(kept).toContain('>Dawn<');
    const file = await encode(picture, 'jpeg', { provenance: { ...TOLD, sourceType: null } });
    const own = await exifr.parse(file, { xmp: true, mergeOutput: true });
    expect(own.DigitalSourceType).toBeUndefined();
    expect(own.description?.value ?? own.description).toBe(TOLD.disclosure);
  });

  test('a packet that is no XML is kept as it is', () => {
    const broken = Buffer.from('<x:xmpmeta><rdf:RDF');
    expect(xmpWithProvenance(broken, TOLD).equals(broken)).toBe(true);
  });
});

describe('IPTC fields', () => {
  test('go along in JPEG, TIFF and PNG, byte for byte', async () => {
    const jpeg = await encode(picture, 'jpeg', { iptc: FIELDS });
    expect((await readAccompanying(jpeg, LIMITS)).iptc!.equals(FIELDS)).toBe(true);
    const tiff = await encode(picture, 'tiff', { iptc: FIELDS });
    expect(
      iptcFields((await sharp(tiff).metadata()).iptc)!
        .subarray(0, FIELDS.length)
        .equals(FIELDS),
    ).toBe(true);
    const png = await encode(picture, 'png', { iptc: FIELDS });
    expect(png.includes(Buffer.from('Raw profile type iptc'))).toBe(true);
    // The picture itself can still be read.
    for (const file of [jpeg, tiff, png]) expect((await sharp(file).metadata()).width).toBe(40);
  });

  test('another reader finds them (exifr)', async () => {
    const own = await exifr.parse(await encode(picture, 'jpeg', { iptc: FIELDS }), { iptc: true, mergeOutput: true });
    expect(own).toMatchObject({ Caption: 'The headland at dawn', Credit: 'Skerrow Light Trust', Keywords: 'coast' });
  });

  test('what does not fit a segment is left out, and other resources are passed over', async () => {
    const jpeg = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#808080' } })
      .jpeg()
      .toBuffer();
    expect(jpegWithIptc(jpeg, Buffer.alloc(70_000)).equals(jpeg)).toBe(true);
    const other = Buffer.concat([
      Buffer.from('50686f746f73686f7020332e3000', 'hex'),
      Buffer.from('8BIM'),
      Buffer.from([4, 0x0c, 0, 0, 0, 0, 0, 3, 1, 2, 3, 0]),
    ]);
    const own = Buffer.concat([Buffer.from('8BIM'), Buffer.from([4, 4, 0, 0, 0, 0, 0, FIELDS.length]), FIELDS]);
    expect(iptcFields(Buffer.concat([other, own]))!.equals(FIELDS)).toBe(true);
    expect(iptcFields(other)).toBeNull();
    expect(iptcFields(Buffer.from('8BIM'))).toBeNull();
  });
});
