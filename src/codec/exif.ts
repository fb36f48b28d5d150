import { withBytes } from './bytes.ts';
import { Directories, type Directory } from './directory.ts';

const ORIENTATION = 0x0112;
const EXIF_DIRECTORY = 0x8769;
const GPS_DIRECTORY = 0x8825;
const INTEROP_DIRECTORY = 0xa005;
const MAKER_NOTE = 0x927c;
const IPTC = 0x83bb;
const REFERENCES = new Set([EXIF_DIRECTORY, GPS_DIRECTORY, INTEROP_DIRECTORY]);
/** Where a picture within begins: a JPEG's first marker and the start of its next. */
const JPEG_BEGINS = Buffer.from([0xff, 0xd8, 0xff]);

const startOf = (exif: Buffer) => (exif.toString('latin1', 0, 4) === 'Exif' ? 6 : 0);

function write(out: Buffer, little: boolean, at: number, bytes: 2 | 4, value: number): void {
  if (at + bytes > out.length) return;
  if (little) out.writeUIntLE(value, at, bytes);
  else out.writeUIntBE(value, at, bytes);
}

/** Overwrites a directory and all its values, so that nothing of them stays. */
function wipe(out: Buffer, d: Directories, directory: Directory): void {
  const [offset, length] = [d.number(directory, 0x0201), d.number(directory, 0x0202)];
  if (offset && length) out.fill(0, d.start + offset, Math.min(out.length, d.start + offset + length));
  const [strips, counts] = [0x0111, 0x0117].map((tag) => directory.fields.find((f) => f.tag === tag));
  for (let n = 0; strips && counts && n < Math.min(strips.count, counts.count, 10_000); n++) {
    const value = (f: typeof strips) => (f.type === 3 ? d.u16(f.at + 2 * n) : d.u32(f.at + 4 * n));
    const from = d.start + value(strips);
    out.fill(0, Math.min(out.length, from), Math.min(out.length, from + value(counts)));
  }
  for (const f of directory.fields)
    if (f.bytes > 4) out.fill(0, Math.min(out.length, f.at), Math.min(out.length, f.at + f.bytes));
  out.fill(0, directory.at, Math.min(out.length, directory.nextAt + 4));
}

/**
 * An EXIF block as it may leave the house: upright, since exported pixels are, and without any picture within, since that
 * would show what was removed; without the place where it was taken (its GPS directory) where that is to be left out. Source: Exif 2.3 (orientation, first directory's successor holds the thumbnail).
 */
export function exifForDelivery(exif: Uint8Array, place: 'keep' | 'leave' = 'keep'): Buffer {
  const out = Buffer.from(exif);
  withBytes(Buffer.from(exif), (bytes) => {
    const d = Directories.open(bytes, startOf(out));
    if (!d) return;
    const first = d.read(d.first());
    for (const f of first.fields) if (f.tag === ORIENTATION) write(out, d.little, f.at, 2, 1);
    for (const directory of d.all().slice(1)) wipe(out, d, directory);
    write(out, d.little, first.nextAt, 4, 0);
    const gps = d.number(first, GPS_DIRECTORY);
    if (place === 'leave' && gps) {
      wipe(out, d, d.read(d.start + gps));
      // What refers to it refers to an empty directory from now on: the zeros behind the first one.
      for (const f of first.fields) if (f.tag === GPS_DIRECTORY) write(out, d.little, f.at, 4, first.nextAt - d.start);
    }
    const own = d.number(first, EXIF_DIRECTORY);
    const note = own && d.read(d.start + own).fields.find((f) => f.tag === MAKER_NOTE);
    // A maker's own notes may hold a preview of their own.
    if (note && d.content(note).includes(JPEG_BEGINS)) out.fill(0, note.at, Math.min(out.length, note.at + note.bytes));
  });
  // Wherever else a picture might stand: without its beginning it cannot be read.
  for (let at = out.indexOf(JPEG_BEGINS); at >= 0; at = out.indexOf(JPEG_BEGINS, at)) out.fill(0, at);
  return out.subarray(0, lastByte(out));
}

/** Length without the zeros at its end, which a thumbnail there leaves. */
function lastByte(bytes: Buffer): number {
  let length = bytes.length;
  while (length > 64 && bytes[length - 1] === 0) length--;
  return Math.min(bytes.length, length + (length & 1) + 4);
}

/** A place in an XMP packet, as attributes and as elements. Source: Exif 2.3 for XMP (CIPA DC-010). */
const PLACES = [/\s\w+:GPS\w+="[^"]*"/g, /\s\w+:GPS\w+='[^']*'/g, /<(\w+):(GPS\w+)\b[^>]*>[\s\S]*?<\/\1:\2>/g];

/** Whether a file names the place where it was taken. */
export function namesPlace({ exif, xmp }: { exif?: Uint8Array | null; xmp?: Uint8Array | null }): boolean {
  if (xmp && /:GPSL(?:at|ong)itude\b/.test(Buffer.from(xmp).toString('utf8'))) return true;
  if (!exif) return false;
  const block = Buffer.from(exif);
  return withBytes(block, (bytes) => {
    const d = Directories.open(bytes, startOf(block));
    const at = d && d.number(d.read(d.first()), GPS_DIRECTORY);
    return Boolean(d && at && d.read(d.start + at).fields.some((f) => f.tag >= 1 && f.tag <= 4));
  });
}

/** An XMP packet without the pictures within it; without a place where that is to be left out. */
export function xmpForDelivery(xmp: Uint8Array, place: 'keep' | 'leave' = 'keep'): Buffer {
  const text = Buffer.from(xmp).toString('utf8');
  const kept = place === 'leave' ? PLACES.reduce((t, p) => t.replace(p, ''), text) : text;
  const clean = kept
    .replace(/<(\w+):Thumbnails\b[\s\S]*?<\/\1:Thumbnails>/g, '')
    .replace(/<(\w+):image>[\s\S]*?<\/\1:image>/g, '')
    .replace(/\s\w+:image="[^"]{200,}"/g, '');
  return clean === text ? Buffer.from(xmp) : Buffer.from(clean);
}

interface Written {
  tag: number;
  type: number;
  count: number;
  content: Buffer;
}

/** Reads a directory's fields with their contents, in the byte order that is asked for. */
function fieldsOf(d: Directories, directory: Directory, little: boolean): Written[] {
  return directory.fields
    .filter((f) => f.bytes > 0 && !REFERENCES.has(f.tag) && f.tag !== MAKER_NOTE)
    .map(({ tag, type, count, ...f }) => {
      const content = Buffer.from(d.content({ tag, type, count, ...f }));
      if (d.little !== little) {
        const unit = f.bytes / count;
        if (unit === 2) content.swap16();
        else if (unit === 4) content.swap32();
        // Fractions are two numbers of four bytes.
        else if (unit === 8) content.subarray(0, content.length & ~3).swap32();
      }
      return { tag, type, count, content };
    });
}

/** A directory as bytes that begin at `at` in their file, with longer values behind it. */
function serialised(fields: Written[], at: number, little: boolean): Buffer {
  const sorted = [...fields].sort((a, b) => a.tag - b.tag);
  const table = Buffer.alloc(2 + sorted.length * 12 + 4);
  const behind: Buffer[] = [];
  let next = at + table.length;
  write(table, little, 0, 2, sorted.length);
  sorted.forEach(({ tag, type, count, content }, n) => {
    const entry = 2 + n * 12;
    write(table, little, entry, 2, tag);
    write(table, little, entry + 2, 2, type);
    write(table, little, entry + 4, 4, count);
    if (content.length <= 4) content.copy(table, entry + 8);
    else {
      write(table, little, entry + 8, 4, next);
      const padded = content.length & 1 ? Buffer.concat([content, Buffer.alloc(1)]) : content;
      behind.push(padded);
      next += padded.length;
    }
  });
  return Buffer.concat([table, ...behind]);
}

/** Tags of a first directory that say something of the picture, not of how its pixels are stored: description, maker, model, software, date, artist, copyright. */
const TELLING = new Set([0x010e, 0x010f, 0x0110, 0x0131, 0x0132, 0x013b, 0x8298]);

/**
 * Puts an EXIF block into a TIFF: its telling tags beside the picture's own, its EXIF and GPS directories behind them. A maker's
 * notes stay out: they hold places in the old file. IPTC fields go in as a field of their own. Source: Exif 2.3, 4.6.3; TIFF Revision 6.0.
 */
export function tiffWithExif(tiff: Buffer, exif: Uint8Array | null, iptc: Uint8Array | null = null): Buffer {
  const block = exif && Buffer.from(exif);
  const picture = withBytes(tiff, (bytes) => Directories.open(bytes));
  const source = block && withBytes(block, (bytes) => Directories.open(bytes, startOf(block)));
  if (!picture || !(source || iptc)) return tiff;
  const { little } = picture;
  const own = picture.read(picture.first());
  const first = source?.read(source.first());
  const fields = fieldsOf(picture, own, little);
  const known = new Set(fields.map((f) => f.tag));
  if (source && first)
    fields.push(...fieldsOf(source, first, little).filter((f) => TELLING.has(f.tag) && !known.has(f.tag)));
  if (iptc && !known.has(IPTC)) fields.push({ tag: IPTC, type: 7, count: iptc.length, content: Buffer.from(iptc) });
  const parts: Buffer[] = [Buffer.alloc(tiff.length & 1)];
  let at = tiff.length + parts[0].length;
  const put = (part: Buffer): number => {
    const from = at;
    parts.push(part);
    at += part.length;
    return from;
  };
  for (const tag of source && first ? [EXIF_DIRECTORY, GPS_DIRECTORY] : []) {
    const place = source!.number(first!, tag);
    if (!place) continue;
    const inner = fieldsOf(source!, source!.read(source!.start + place), little);
    if (!inner.length) continue;
    const content = Buffer.alloc(4);
    write(content, little, 0, 4, put(serialised(inner, at, little)));
    fields.push({ tag, type: 4, count: 1, content });
  }
  const table = put(serialised(fields, at, little));
  const out = Buffer.concat([tiff, ...parts]);
  write(out, little, 4, 4, table);
  return out;
}

/** Says in a TIFF that its resolution means nothing, where the picture came without one. Source: TIFF Revision 6.0, tag 296. */
export function tiffWithoutResolution(tiff: Buffer): Buffer {
  const d = withBytes(tiff, (bytes) => Directories.open(bytes));
  const unit = d?.read(d.first()).fields.find((f) => f.tag === 296);
  if (d && unit) write(tiff, d.little, unit.at, 2, 1);
  return tiff;
}
