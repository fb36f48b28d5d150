import fc from 'fast-check';
import { XMLValidator } from 'fast-xml-parser';
import { cleanText, plainLine, plainName } from '../contract/shapes.ts';
import { xmpWithProvenance } from './xmp.ts';

/** Any text, with control characters, halves of characters and what markup is made of. */
const anyText = fc.oneof(
  fc.string({ unit: 'binary', maxLength: 80 }),
  fc.string({
    unit: fc.constantFrom(
      '<',
      '>',
      '&',
      '"',
      "'",
      ']]>',
      '\u0000',
      '\u000b',
      '\ud800',
      '\udc00',
      '\ufffe',
      'ä',
      '\n',
      '\r',
    ),
    maxLength: 20,
  }),
);

test('what is taken in can be written as UTF-8, without control characters', () => {
  fc.assert(
    fc.property(anyText, (text) => {
      const clean = cleanText(text);
      expect(Buffer.from(clean, 'utf8').toString('utf8')).toBe(clean);
      // eslint-disable-next-line no-control-regex
      expect(clean).not.toMatch(/[\u0000-\u0009\u000b-\u001f\u007f-\u009f\ufffe\uffff]/);
      expect(cleanText(clean)).toBe(clean);
      expect(plainLine(1000).parse(text)).not.toContain('\n');
      const name = plainName(1000).safeParse(text);
      if (name.success) expect(name.data).not.toMatch(/[\n\r]/);
    }),
  );
});

test('metadata are well-formed whatever is said in them', () => {
  fc.assert(
    fc.property(anyText, anyText, (disclosure, editor) => {
      const said = { disclosure: cleanText(disclosure), editor: plainLine(1000).parse(editor) };
      const packet = xmpWithProvenance(null, {
        sourceType: null,
        software: 'Tersum',
        when: '2026-12-02',
        ...said,
      }).toString('utf8');
      expect(XMLValidator.validate(packet.replace(/<\?xpacket[^>]*\?>/g, ''))).toBe(true);
    }),
  );
});
