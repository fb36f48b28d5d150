import type { ExportFormat } from '../../contract/exports.ts';
import type { Format } from './format.ts';
import { changedPlaces } from './formats/changed-places.ts';
import { covers } from './formats/covers.ts';
import { jpeg, png, tiff, web } from './formats/encoded.ts';
import { sheetPdf } from './formats/sheet-pdf.ts';
import { sheetPng } from './formats/sheet-png.ts';
import { ora } from './formats/open-raster.ts';

/** How each file that leaves is made, one line each. */
export const FORMATS: Record<ExportFormat, Format> = {
  png,
  tiff,
  jpeg,
  web,
  ora,
  sheetPdf,
  sheetPng,
  covers,
  changed: changedPlaces,
};
