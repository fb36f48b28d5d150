import { plainDate } from '../../record/words.ts';
import { Paper } from './paper.ts';

/** One picture of a contact sheet. */
export interface Contact {
  jpeg: Buffer;
  width: number;
  height: number;
  caption: string;
}

const COLUMNS = 3;

/** All pictures of a job, small, on A4. */
export function contactSheet(job: { name: string; client: string }, now: number, list: readonly Contact[]) {
  const paper = new Paper(`${job.name}, contact sheet`, '');
  paper.title(job.name);
  const count = `${list.length} ${list.length === 1 ? 'picture' : 'pictures'}`;
  paper.text([job.client, plainDate(now), count].filter(Boolean).join(' · '), true);
  paper.heading('');
  for (let n = 0; n < list.length; n += COLUMNS) {
    const row: Contact[] = list.slice(n, n + COLUMNS);
    // A last row that is not full keeps the size of the others.
    while (row.length < Math.min(COLUMNS, list.length)) row.push({ ...EMPTY });
    paper.pictures(row, 170);
  }
  return paper.bytes(job.name);
}

/** A white pixel. */
const EMPTY: Contact = { jpeg: Buffer.alloc(0), width: 3, height: 2, caption: '' };
