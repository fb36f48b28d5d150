import type { ExportFormat } from '../../contract/exports.ts';
import type { Format } from './format.ts';
import { changedPlaces } from './formats/changed-places.ts';
import { covers } from './formats/covers.ts';
import { jpeg, png, tiff } from './formats/encoded.ts';
import { ora } from './formats/open-raster.ts';

/** How each file that leaves is made, one line each. */
export const FORMATS: Record<ExportFormat, Format> = { png, tiff, jpeg, ora, covers, changed: changedPlaces };
