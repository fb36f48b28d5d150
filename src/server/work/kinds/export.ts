import { exportPicture, type ExportInput } from '../../deliver/export.ts';
import type { Work } from '../work.ts';

/** A file for delivery. */
export const exportFile: Work<ExportInput, { bytes: Uint8Array }> = {
  native: true,
  run: async (input, progress) => ({ bytes: await exportPicture(input, progress) }),
};
