import sharp from 'sharp';
import { createRaster } from '../core/raster/raster.ts';
import { readAccompanying } from './decode.ts';
import { encode } from './encode.ts';
import { namesPlace, xmpForDelivery } from './exif.ts';
import { limitsFrom } from './limits.ts';

const LIMITS = limitsFrom({});

/** A photograph that says where it was taken and whose it is. */
const located = () =>
  sharp({ create: { width: 24, height: 16, channels: 3, background: '#456' } })
    .jpeg()
    .withExif({
      IFD0: { Copyright: 'Skerrow Light Trust', Model: 'Box camera' },
      IFD3: {
        GPSLatitudeRef: 'N',
        GPSLatitude: '57/1 12/1 3456/100',
        GPSLongitudeRef: 'W',
        GPSLongitude: '7/1 3/1 98/100',
      },
    })
    .toBuffer();

describe('the place where a picture was taken', () => {
  test('is noticed', async () => {
    expect(namesPlace(await readAccompanying(await located(), LIMITS))).toBe(true);
    const plain = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#456' } })
      .jpeg()
      .withExif({ IFD0: { Copyright: 'Skerrow Light Trust' } })
      .toBuffer();
    expect(namesPlace(await readAccompanying(plain, LIMITS))).toBe(false);
    expect(namesPlace({ xmp: Buffer.from('<rdf:Description exif:GPSLatitude="57,12.5N"/>') })).toBe(true);
  });

  test.each(['jpeg', 'png', 'tiff'] as const)(
    'goes along in a %s, or is left out with the rest kept',
    async (format) => {
      const came = await readAccompanying(await located(), LIMITS);
      const raster = createRaster(24, 16, 3, 8);
      // 57/1 12/1 as unsigned fractions, in either order of bytes.
      const tells = (file: Buffer) =>
        [
          [57, 0, 0, 0, 1, 0, 0, 0, 12, 0],
          [0, 0, 0, 57, 0, 0, 0, 1, 0, 0, 0, 12],
        ].some((bytes) => file.includes(Buffer.from(bytes)));
      const kept = await encode(raster, format, { ...came });
      expect(tells(kept)).toBe(true);
      // A TIFF's own directories are not read as a block of EXIF.
      if (format !== 'tiff') expect(namesPlace(await readAccompanying(kept, LIMITS))).toBe(true);
      const file = await encode(raster, format, { ...came, place: 'leave' });
      const left = await readAccompanying(file, LIMITS);
      expect(namesPlace(left)).toBe(false);
      expect(tells(file)).toBe(false);
      expect(file.includes('Skerrow Light Trust')).toBe(true);
    },
  );

  test('goes out of a packet of XMP, however it is written there', () => {
    const xmp = `<rdf:Description exif:GPSLatitude="57,12.5N" dc:format="image/jpeg"><exif:GPSLongitude>7,3.1W</exif:GPSLongitude><dc:rights>Trust</dc:rights></rdf:Description>`;
    const clean = xmpForDelivery(Buffer.from(xmp), 'leave').toString();
    expect(clean).toBe('<rdf:Description dc:format="image/jpeg"><dc:rights>Trust</dc:rights></rdf:Description>');
    expect(xmpForDelivery(Buffer.from(xmp)).toString()).toBe(xmp);
  });
});
