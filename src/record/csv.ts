import { stringify } from 'csv-stringify/sync';
import type { RepairRecord } from '../contract/record.ts';

/** The repairs of a record as a table, a line each; RFC 4180, with a byte order mark so that spreadsheets read it as UTF-8. */
export function recordCsv(record: RepairRecord): string {
  const rows = record.repairs.map((r) => ({
    number: r.number,
    faults: r.faults.join(' '),
    kinds: [...new Set(r.kinds)].join(' '),
    method: r.words,
    x: r.place.x,
    y: r.place.y,
    width: r.place.width,
    height: r.place.height,
    'area %': r.area,
    donor: r.donor,
    strength: r.strength,
    visible: r.visible ? 'yes' : 'no',
    layer: record.layers[r.layer]?.name ?? '',
    made: r.at ?? '',
    editor: record.editor,
    findings: r.findings.map((f) => `${f.kind} ${f.figure} ${f.unit}`).join('; '),
  }));
  return stringify(rows, { header: true, bom: true, record_delimiter: '\r\n', escape_formulas: true });
}
