import { crop, boxOf, intersect, isEmpty, type Raster } from '../../../core/raster/raster.ts';
import { donorLine, lineOf, seenIn } from '../../../record/words.ts';
import type { Delivered, Format } from '../format.ts';
import { forPaper, Paper } from '../paper.ts';

/** px of a picture on paper: 90 mm at 300 an inch, or 180 mm at 150. */
const SIDE = 1100;

/** The picture as it came, on the canvas as far as it reaches. */
export function beforeOf({ original, canvas }: Pick<Delivered, 'original' | 'canvas'>): Raster {
  const part = intersect(canvas, boxOf(original));
  return isEmpty(part) ? original : crop(original, part);
}

/** Two pictures and the list of what was done, on A4. */
export const sheetPdf: Format = async (picture) => {
  const { record, attach, progress } = picture;
  const merged = picture.merged();
  const [before, after] = await Promise.all([beforeOf(picture), merged].map((p) => forPaper(p, attach.icc, SIDE)));
  progress(0.6);
  const { job, editor, original } = record;
  const paper = new Paper(`${original.fileName}, before and after`, editor);
  paper.title(original.fileName);
  paper.text([job.client, job.name, record.made.slice(0, 10), editor].filter(Boolean).join(' · '), true);
  paper.heading('');
  paper.pictures(
    [
      { ...before, caption: 'As it came in' },
      { ...after, caption: 'With its repairs' },
    ],
    300,
  );
  paper.heading('What was done').text(record.disclosure);
  paper.heading('');
  const rows = seenIn(record).map((r) => [String(r.number), lineOf(r), donorLine(r)]);
  if (rows.length) paper.table(['', 'Repair', 'Taken from'], rows, [0.06, 0.64, 0.3]);
  return paper.bytes(`${job.name} · ${original.fileName}`);
};
