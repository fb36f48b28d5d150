import type { ByteSource } from './bytes.ts';

/** Bytes of one value of each field type. Source: TIFF Revision 6.0, section 2; 13 (IFD) from its supplement 1. */
const SIZES = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4];
/** Fields and directories read at most; a real file has far fewer. */
const MOST_FIELDS = 1000;
const MOST_DIRECTORIES = 200;

export interface Field {
  tag: number;
  type: number;
  count: number;
  /** where its bytes stand, and how many there are */
  at: number;
  bytes: number;
}

/** A directory of fields as TIFF files and EXIF blocks have them. */
export interface Directory {
  at: number;
  fields: Field[];
  /** where the next one stands; 0 when there is none */
  next: number;
  /** where the reference to the next one stands */
  nextAt: number;
}

/** Reads directories of a TIFF file or of an EXIF block (from its byte order mark on). */
export class Directories {
  readonly little: boolean;

  private constructor(
    private readonly bytes: ByteSource,
    readonly start: number,
  ) {
    this.little = bytes.read(start, 2).toString('latin1') === 'II';
  }

  /** @returns null when there is no classic TIFF structure at `start` */
  static open(bytes: ByteSource, start = 0): Directories | null {
    const head = bytes.read(start, 8);
    const order = head.toString('latin1', 0, 2);
    if (head.length < 8 || (order !== 'II' && order !== 'MM')) return null;
    const made = new Directories(bytes, start);
    return made.u16(start + 2) === 42 ? made : null;
  }

  u16(at: number): number {
    const b = this.bytes.read(at, 2);
    if (b.length < 2) return 0;
    return this.little ? b.readUInt16LE() : b.readUInt16BE();
  }

  u32(at: number): number {
    const b = this.bytes.read(at, 4);
    if (b.length < 4) return 0;
    return this.little ? b.readUInt32LE() : b.readUInt32BE();
  }

  first(): number {
    return this.start + this.u32(this.start + 4);
  }

  /** The directory at a place; without fields when there is none. */
  read(at: number): Directory {
    const count = Math.min(MOST_FIELDS, this.u16(at));
    const fields: Field[] = [];
    for (let n = 0; n < count; n++) {
      const entry = at + 2 + n * 12;
      const [tag, type, values] = [this.u16(entry), this.u16(entry + 2), this.u32(entry + 4)];
      const bytes = (SIZES[type] ?? 0) * values;
      fields.push({ tag, type, count: values, bytes, at: bytes > 4 ? this.start + this.u32(entry + 8) : entry + 8 });
    }
    const nextAt = at + 2 + count * 12;
    const next = this.u32(nextAt);
    return { at, fields, next: next ? this.start + next : 0, nextAt };
  }

  /** All directories one after another. */
  all(): Directory[] {
    const out: Directory[] = [];
    const seen = new Set<number>();
    for (let at = this.first(); at > this.start && !seen.has(at) && out.length < MOST_DIRECTORIES;) {
      seen.add(at);
      const directory = this.read(at);
      if (!directory.fields.length) break;
      out.push(directory);
      at = directory.next;
    }
    return out;
  }

  /** The first value of a field as a number; null without such a field. */
  number(directory: Directory, tag: number): number | null {
    const field = directory.fields.find((f) => f.tag === tag);
    if (!field || !field.count) return null;
    if (field.type === 1 || field.type === 7) return this.bytes.read(field.at, 1)[0] ?? null;
    if (field.type === 3) return this.u16(field.at);
    if (field.type === 4 || field.type === 13) return this.u32(field.at);
    if (field.type === 5) return this.u32(field.at) / Math.max(1, this.u32(field.at + 4));
    return null;
  }

  content(field: Field): Buffer {
    return this.bytes.read(field.at, Math.min(field.bytes, 1 << 26));
  }
}
