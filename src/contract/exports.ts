/** How a file that leaves is called, and what is said of it where it is chosen. */
interface ExportFacts {
  name: string;
  ending: string;
  media: string;
  /** picture: one that is delivered, with a record; paper: for people to look at; aid: for other programs */
  group: 'picture' | 'paper' | 'aid';
  /** one flat picture, which a verification can compare pixel by pixel */
  flat?: true;
  /** @param depth bits a sample of the source */
  words(depth: number): string;
}

const exact = (depth: number) => `${depth} bit, lossless: what was not touched equals the original in every bit.`;

/** Every file that leaves, one line each; how it is made stands in `server/deliver`. */
export const EXPORTED = {
  png: { name: 'PNG', ending: 'png', media: 'image/png', group: 'picture', flat: true, words: exact },
  tiff: { name: 'TIFF', ending: 'tif', media: 'image/tiff', group: 'picture', flat: true, words: exact },
  jpeg: {
    name: 'JPEG',
    ending: 'jpg',
    media: 'image/jpeg',
    group: 'picture',
    flat: true,
    words: () => '8 bit, small; compresses everything anew.',
  },
  web: {
    name: 'For the web',
    ending: 'web.jpg',
    media: 'image/jpeg',
    group: 'picture',
    flat: true,
    words: () => 'JPEG in sRGB, made smaller and sharpened for the screen.',
  },
  ora: {
    name: 'OpenRaster',
    ending: 'ora',
    media: 'image/openraster',
    group: 'picture',
    words: () =>
      'The original and each repair layer, with name, opacity and visibility; the turn that levels it is left out.',
  },
  sheetPdf: {
    name: 'Before and after, PDF',
    ending: 'sheet.pdf',
    media: 'application/pdf',
    group: 'paper',
    words: () => 'Two pictures and the list of what was done, on A4.',
  },
  sheetPng: {
    name: 'Before and after, PNG',
    ending: 'sheet.png',
    media: 'image/png',
    group: 'paper',
    words: () => 'The same as one picture, for a mail or a page.',
  },
  covers: {
    name: 'Covers',
    ending: 'covers.zip',
    media: 'application/zip',
    group: 'aid',
    words: () => 'The cover of each repair as a grey PNG, in one zip file.',
  },
  changed: {
    name: 'Changed places',
    ending: 'changed.png',
    media: 'image/png',
    group: 'aid',
    words: () => 'One grey PNG: white where the picture was changed.',
  },
} satisfies Record<string, ExportFacts>;

export type ExportFormat = keyof typeof EXPORTED;
export const EXPORT_FORMATS = Object.keys(EXPORTED) as [ExportFormat, ...ExportFormat[]];
