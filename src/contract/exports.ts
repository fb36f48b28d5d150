/** How a file that leaves is called, and what is said of it where it is chosen. */
interface ExportFacts {
  name: string;
  ending: string;
  media: string;
  /** @param depth bits a sample of the source */
  words(depth: number): string;
}

const exact = (depth: number) =>
  `${depth} bit, profile and resolution kept. Untouched pixels equal the original in every bit.`;

/** Every file that leaves, one line each; how it is made stands in `server/deliver`. */
export const EXPORTED = {
  png: { name: 'PNG', ending: 'png', media: 'image/png', words: exact },
  tiff: { name: 'TIFF', ending: 'tif', media: 'image/tiff', words: exact },
  jpeg: { name: 'JPEG', ending: 'jpg', media: 'image/jpeg', words: () => '8 bit, small; compresses everything anew.' },
  ora: {
    name: 'OpenRaster',
    ending: 'ora',
    media: 'image/openraster',
    words: () => 'The original and each repair layer, with name, opacity and visibility.',
  },
  covers: {
    name: 'Covers',
    ending: 'covers.zip',
    media: 'application/zip',
    words: () => 'The cover of each repair as a grey PNG, in one zip file.',
  },
  changed: {
    name: 'Changed places',
    ending: 'changed.png',
    media: 'image/png',
    words: () => 'One grey PNG: white where the picture was changed.',
  },
} satisfies Record<string, ExportFacts>;

export type ExportFormat = keyof typeof EXPORTED;
export const EXPORT_FORMATS = Object.keys(EXPORTED) as [ExportFormat, ...ExportFormat[]];
