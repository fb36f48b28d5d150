import { FINDING_WORDS } from '../../core/check/words.ts';
import type { RepairRecord } from '../../contract/record.ts';
import { donorLine, percent } from '../../record/words.ts';
import { Paper } from './paper.ts';

const size = (r: { width: number; height: number }) => `${r.width} × ${r.height} px`;

/** What an original was joined from, a line a frame. */
const framesOf = ({ joined }: RepairRecord['original']): Array<[string, string]> =>
  (joined?.frames ?? []).map(({ fileName, sha256, used }, n) => [
    n ? '' : 'Joined from',
    `${fileName}${used ? '' : ', which stayed out'}, ${sha256}`,
  ]);

/** A repair record for people to read. */
export function recordPdf(record: RepairRecord): Promise<Uint8Array> {
  const { job, original, delivered, editor } = record;
  const paper = new Paper(`Repair record, ${delivered.fileName}`, editor);
  paper.title('Repair record');
  paper.text(delivered.fileName, true);
  paper
    .heading('Job')
    .facts([
      ['Job', job.name],
      ['Client', job.client || '–'],
      ['What may be changed', job.policy],
      ...job.changes.map((c): [string, string] => [c.at.slice(0, 10), c.text]),
      ['Repaired by', editor || '–'],
      ['Record made', `${record.made.slice(0, 16).replace('T', ' ')} UTC, ${record.software}`],
      ['Time spent', `${record.minutes} min`],
    ]);
  paper
    .heading('Original')
    .facts([
      ['File', `${original.fileName}, ${original.format}, ${original.bytes} bytes`],
      [
        'Picture',
        `${size(original)}, ${original.channels} × ${original.depth} bit, ${original.profile ?? 'no profile'}`,
      ],
      ['SHA-256', original.sha256],
      ...framesOf(original),
    ]);
  paper.heading('Delivered').facts([
    ['File', `${delivered.fileName}, version ${delivered.version}`],
    ['Picture', `${size(delivered)}, ${delivered.channels} × ${delivered.depth} bit`],
    ['SHA-256 of pixels', delivered.pixels],
    ['SHA-256 of file', delivered.sha256],
    ['Seal of this record', record.seal],
  ]);
  paper.heading('What was done').text(record.disclosure);
  if (record.sourceType) paper.text(`Digital source type: ${record.sourceType.replace(/^.*\//, '')}`, true);
  if (record.repairs.length) {
    paper.heading(`Repairs, from the bottom up`);
    paper.table(
      ['', 'Kind', 'Method', 'Place', 'Area', 'Taken from', 'Strength', 'Check'],
      record.repairs.map((r) => [
        String(r.number),
        [...new Set(r.kinds)].join(', ') || '–',
        r.words,
        `${r.place.x}, ${r.place.y}, ${r.place.width} × ${r.place.height}`,
        percent(r.area),
        donorLine(r),
        r.visible ? `${Math.round(100 * r.strength)} %` : 'hidden',
        r.findings.length
          ? r.findings
              .slice(0, 2)
              .map((f) => `${FINDING_WORDS[f.kind].short} ${f.figure} ${f.unit}`)
              .join('; ')
          : 'clean',
      ]),
      [0.04, 0.09, 0.13, 0.19, 0.09, 0.19, 0.08, 0.19],
    );
  }
  const rest = record.faults.filter((f) => f.state !== 'treated');
  if (rest.length) {
    paper.heading('Faults that were not treated, or accepted');
    paper.table(
      ['', 'Kind', 'State', 'Why'],
      rest.map((f) => [String(f.number), f.kind, f.state, f.note ?? '']),
      [0.06, 0.2, 0.2, 0.54],
    );
  }
  return paper.bytes(`Repair record · ${delivered.fileName}`);
}
