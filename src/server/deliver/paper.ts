import PDFDocument from 'pdfkit';
import sharp from 'sharp';
import { tiffEnvelope } from '../../codec/envelope.ts';
import type { Raster } from '../../core/raster/raster.ts';
import { fontFile } from './fonts.ts';

const POINTS_A_MM = 72 / 25.4;
/** A4 and its margin, points. */
export const PAGE = { width: 210 * POINTS_A_MM, height: 297 * POINTS_A_MM, margin: 15 * POINTS_A_MM };
const INK = '#1d2321';
const QUIET = '#5c6663';
const RULE = '#cfd4d1';

/** A PDF on A4 in the application's face, written from the top down. */
export class Paper {
  private readonly pdf: PDFKit.PDFDocument;
  private readonly parts: Buffer[] = [];
  private readonly ended: Promise<void>;

  constructor(title: string, author: string) {
    this.pdf = new PDFDocument({
      size: 'A4',
      margin: PAGE.margin,
      bufferPages: true,
      info: { Title: title, ...(author && { Author: author }), Creator: 'Tersum' },
    });
    this.pdf.registerFont('plain', fontFile(400));
    this.pdf.registerFont('strong', fontFile(600));
    this.ended = new Promise((resolve, reject) => {
      this.pdf.on('data', (part: Buffer) => this.parts.push(part));
      this.pdf.on('end', () => resolve());
      this.pdf.on('error', reject);
    });
  }

  /** width between the margins */
  readonly width = PAGE.width - 2 * PAGE.margin;

  get y(): number {
    return this.pdf.y;
  }
  /** points left on this page */
  get left(): number {
    return PAGE.height - PAGE.margin - this.pdf.y;
  }

  title(text: string): this {
    this.pdf.font('strong').fontSize(17).fillColor(INK).text(text, PAGE.margin);
    this.pdf.moveDown(0.25);
    return this;
  }
  heading(text: string): this {
    this.room(60);
    this.pdf.moveDown(0.8);
    this.pdf.font('strong').fontSize(10.5).fillColor(INK).text(text, PAGE.margin);
    this.pdf.moveDown(0.3);
    return this;
  }
  text(text: string, quiet = false): this {
    this.pdf
      .font('plain')
      .fontSize(9)
      .fillColor(quiet ? QUIET : INK)
      .text(text, PAGE.margin, undefined, { width: this.width });
    return this;
  }

  /** Names and what they say, in two columns. */
  facts(rows: ReadonlyArray<readonly [string, string]>): this {
    for (const [name, value] of rows) this.row([name, value], [0.22, 0.78], [QUIET, INK]);
    return this;
  }

  /** A table whose head is repeated on every page. */
  table(head: readonly string[], rows: ReadonlyArray<readonly string[]>, shares: readonly number[]): this {
    const top = () => {
      this.row(
        head,
        shares,
        head.map(() => QUIET),
      );
      this.rule();
    };
    top();
    for (const row of rows) {
      if (this.left < this.heightOf(row, shares) + 8) {
        this.pdf.addPage();
        top();
      }
      this.row(
        row,
        shares,
        row.map(() => INK),
      );
    }
    return this;
  }

  rule(): this {
    const y = this.pdf.y + 1;
    this.pdf
      .moveTo(PAGE.margin, y)
      .lineTo(PAGE.margin + this.width, y)
      .lineWidth(0.5)
      .strokeColor(RULE)
      .stroke();
    this.pdf.y = y + 4;
    return this;
  }

  /** Begins a new page unless so many points are left. */
  room(points: number): this {
    if (this.left < points) this.pdf.addPage();
    return this;
  }

  /** Lays pictures side by side, each with a line beneath; at most so high. */
  pictures(list: ReadonlyArray<{ jpeg: Buffer; width: number; height: number; caption: string }>, most: number): this {
    const gap = 10;
    const each = (this.width - gap * (list.length - 1)) / list.length;
    const sizes = list.map(({ width, height }) => {
      const scale = Math.min(each / width, most / height);
      return { width: width * scale, height: height * scale };
    });
    const high = Math.max(...sizes.map((s) => s.height));
    this.room(high + 24);
    const y = this.pdf.y;
    list.forEach(({ jpeg, caption }, n) => {
      if (!jpeg.length) return;
      const x = PAGE.margin + n * (each + gap);
      this.pdf.image(jpeg, x, y, sizes[n]);
      this.pdf
        .font('plain')
        .fontSize(8)
        .fillColor(QUIET)
        .text(caption, x, y + high + 3, { width: each, height: 20, ellipsis: true });
    });
    this.pdf.x = PAGE.margin;
    this.pdf.y = y + high + 22;
    return this;
  }

  async bytes(foot: string): Promise<Uint8Array> {
    const { start, count } = this.pdf.bufferedPageRange();
    for (let n = 0; n < count; n++) {
      this.pdf.switchToPage(start + n);
      this.pdf.page.margins.bottom = 0;
      this.pdf
        .font('plain')
        .fontSize(7.5)
        .fillColor(QUIET)
        .text(`${foot}    ${n + 1} / ${count}`, PAGE.margin, PAGE.height - PAGE.margin + 12, { lineBreak: false });
    }
    this.pdf.end();
    await this.ended;
    return Buffer.concat(this.parts);
  }

  private heightOf(cells: readonly string[], shares: readonly number[]): number {
    this.pdf.font('plain').fontSize(8.5);
    return Math.max(...cells.map((c, n) => this.pdf.heightOfString(c || ' ', { width: this.width * shares[n] - 6 })));
  }

  private row(cells: readonly string[], shares: readonly number[], colours: readonly string[]): void {
    const height = this.heightOf(cells, shares);
    if (this.left < height + 4) this.pdf.addPage();
    const y = this.pdf.y;
    let x = PAGE.margin;
    cells.forEach((cell, n) => {
      this.pdf
        .font('plain')
        .fontSize(8.5)
        .fillColor(colours[n])
        .text(cell, x, y, { width: this.width * shares[n] - 6 });
      x += this.width * shares[n];
    });
    this.pdf.x = PAGE.margin;
    this.pdf.y = y + height + 2.5;
  }
}

/** A picture as it goes onto paper: sRGB, at most so many px, JPEG. */
export async function forPaper(picture: Raster, icc: Uint8Array | null | undefined, most: number) {
  const { data, info } = await sharp(tiffEnvelope(picture, { icc }), { limitInputPixels: false })
    .resize({ width: most, height: most, fit: 'inside', withoutEnlargement: true })
    .flatten({ background: '#ffffff' })
    .toColourspace('srgb')
    .jpeg({ quality: 90, chromaSubsampling: '4:4:4' })
    .toBuffer({ resolveWithObject: true });
  return { jpeg: data, width: info.width, height: info.height };
}
