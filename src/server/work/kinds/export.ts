import { exportPicture, type Exported, type ExportInput } from '../../deliver/export.ts';
import { contactSheet, type Contact } from '../../deliver/contact-sheet.ts';
import { forPaper } from '../../deliver/paper.ts';
import { recordPdf } from '../../deliver/record-pdf.ts';
import type { Limits } from '../../../codec/limits.ts';
import type { RepairRecord, Verification } from '../../../contract/record.ts';
import type { Raster } from '../../../core/raster/raster.ts';
import { flatFile } from '../../../record/flat.ts';
import { verify, type Evidence } from '../../../record/verify.ts';
import type { Work } from '../work.ts';

/** A file for delivery. */
export const exportFile: Work<ExportInput, Exported> = { native: true, run: exportPicture };

/** A repair record on paper. */
export const recordPaper: Work<{ record: RepairRecord }, { bytes: Uint8Array }> = {
  native: true,
  run: async ({ record }) => ({ bytes: await recordPdf(record) }),
};

/** A picture for a contact sheet. */
export const contact: Work<{ picture: Raster; icc: Uint8Array | null; caption: string }, Contact> = {
  native: true,
  run: async ({ picture, icc, caption }) => ({ ...(await forPaper(picture, icc, 700)), caption }),
};

/** All of a job on paper. */
export const contacts: Work<{ name: string; client: string; now: number; list: Contact[] }, { bytes: Uint8Array }> = {
  native: true,
  run: async ({ now, list, ...job }) => ({ bytes: await contactSheet(job, now, list) }),
};

/** Does a record's repairs again and compares. */
export const verification: Work<Evidence & { limits: Limits }, Verification> = {
  run: ({ limits, ...evidence }, progress) =>
    verify(evidence, (picture, original, record) => flatFile(picture, original, record, limits), limits, progress),
};
