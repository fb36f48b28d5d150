import sharp from 'sharp';
import { lineOf, seenIn } from '../../../record/words.ts';
import { FACE, fontFile } from '../fonts.ts';
import type { Format } from '../format.ts';
import { forPaper } from '../paper.ts';
import { beforeOf } from './sheet-pdf.ts';

const SIDE = 1000;
const MARGIN = 40;
const GAP = 24;
/** Repairs that are listed, at most. */
const LISTED = 24;

const escaped = (text: string) => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;');

/** A text as a picture, broken to a width. */
async function set(text: string, size: number, width: number, colour: string, weight: 400 | 600 = 400) {
  const { data, info } = await sharp({
    text: {
      text: `<span foreground="${colour}">${escaped(text)}</span>`,
      font: `${FACE} ${weight === 600 ? 'Semi-Bold ' : ''}${size}`,
      fontfile: fontFile(weight),
      rgba: true,
      dpi: 72,
      width,
      wrap: 'word-char',
      spacing: 6,
    },
  })
    .png()
    .toBuffer({ resolveWithObject: true });
  return { input: data, width: info.width, height: info.height };
}

/** Before and after side by side, and the list of what was done, as one picture. */
export const sheetPng: Format = async (picture) => {
  const { record, attach, progress } = picture;
  const [before, after] = await Promise.all(
    [beforeOf(picture), picture.merged()].map((p) => forPaper(p, attach.icc, SIDE)),
  );
  progress(0.6);
  const width = 2 * MARGIN + GAP + before.width + after.width;
  const within = width - 2 * MARGIN;
  const seen = seenIn(record);
  const more = seen.length > LISTED ? [`and ${seen.length - LISTED} more`] : [];
  const list = [...seen.slice(0, LISTED).map((r) => `${r.number}   ${lineOf(r)}`), ...more].join('\n');
  const told = [record.job.client, record.job.name, record.made.slice(0, 10), record.editor]
    .filter(Boolean)
    .join(' · ');
  const title = await set(record.original.fileName, 30, within, '#1d2321', 600);
  const line = await set(told || ' ', 18, within, '#5c6663');
  const left = await set('As it came in', 18, before.width, '#5c6663');
  const right = await set('With its repairs', 18, after.width, '#5c6663');
  const words = await set(record.disclosure, 18, within, '#1d2321');
  const rows = list ? await set(list, 17, within, '#1d2321') : null;
  let y = MARGIN;
  const laid: Array<{ input: Buffer; left: number; top: number }> = [];
  const put = (input: Buffer, x: number, height: number, after_: number) => {
    laid.push({ input, left: x, top: y });
    y += height + after_;
  };
  put(title.input, MARGIN, title.height, 10);
  put(line.input, MARGIN, line.height, GAP);
  const second = MARGIN + before.width + GAP;
  laid.push({ input: after.jpeg, left: second, top: y });
  put(before.jpeg, MARGIN, Math.max(before.height, after.height), 10);
  laid.push({ input: right.input, left: second, top: y });
  put(left.input, MARGIN, left.height, GAP);
  put(words.input, MARGIN, words.height, GAP);
  if (rows) put(rows.input, MARGIN, rows.height, 0);
  return sharp({ create: { width, height: y + MARGIN, channels: 3, background: '#ffffff' } })
    .composite(laid)
    .png()
    .toBuffer();
};
