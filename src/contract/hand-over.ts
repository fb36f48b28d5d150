import { z } from 'zod';
import { EXPORT_FORMATS } from './exports.ts';
import { plainLine, plainName, plainText } from './shapes.ts';

/**
 * Digital source types that a repaired photograph may be given, by their names in the published vocabulary, and in plain words.
 * Source: IPTC NewsCodes, Digital Source Type (controlled vocabulary); names and meanings from memory.
 */
export const SOURCE_TYPES = {
  digitalCapture: 'Digital capture, as it came from the camera',
  negativeFilm: 'Digitised from a negative',
  positiveFilm: 'Digitised from a slide',
  print: 'Digitised from a print',
  humanEdits: 'Edited by a person, without generative tools',
  algorithmicallyEnhanced: 'Small corrections by a computation',
  compositeCapture: 'Put together from several captures',
} as const;
export type SourceType = keyof typeof SOURCE_TYPES;
const SOURCE_TYPE_NAMES = Object.keys(SOURCE_TYPES) as [SourceType, ...SourceType[]];

/** Web address that stands for a source type in metadata. */
export const sourceTypeUri = (type: SourceType): string => `http://cv.iptc.org/newscodes/digitalsourcetype/${type}`;

/** How the files of a job leave the house. */
export const handOverSchema = z.object({
  /** of file names; see `file-names.ts` */
  template: plainName(200),
  /** who repaired it, as metadata and record say */
  editor: plainLine(120),
  /** what metadata say of how the picture came about; `fitting`: by what was done; `none`: nothing is added */
  sourceType: z.enum(['fitting', 'none', ...SOURCE_TYPE_NAMES]),
  /** a sentence that says what was done; null: the one that is put together from the repairs */
  disclosure: plainText(600).nullable(),
  /** where it was taken, if the file names that: goes along, or is left out */
  place: z.enum(['keep', 'leave']),
  /** of JPEG */
  quality: z.number().int().min(1).max(100),
  /** px of the longer side of the size for the web */
  webSide: z.number().int().min(320).max(10_000),
});
export type HandOver = z.infer<typeof handOverSchema>;

export const USUAL_HAND_OVER: HandOver = {
  template: '{client} {job} {picture} v{version}',
  editor: '',
  sourceType: 'fitting',
  disclosure: null,
  place: 'keep',
  quality: 92,
  webSide: 2048,
};

/** Sends all pictures of a job to its client's letterbox, or saves them in one file. */
export const sendSchema = z.object({
  format: z.enum(EXPORT_FORMATS),
  note: plainText(4000).default(''),
});

/** A file that left: which, when, and what it is called. */
export interface Delivery {
  id: string;
  pictureId: string;
  version: number;
  at: number;
  format: string;
  fileName: string;
  bytes: number;
  /** whether it went to the client's letterbox */
  sent: boolean;
}

/** A file that waits in a client's letterbox. */
export interface Waiting {
  name: string;
  bytes: number;
}
