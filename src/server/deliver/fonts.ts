import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';

/** The face that papers and sheets are set in; it ships with the application. */
export const FACE = 'Schibsted Grotesk';

const FILES = {
  400: '400Regular/SchibstedGrotesk_400Regular.ttf',
  600: '600SemiBold/SchibstedGrotesk_600SemiBold.ttf',
};

/** The file of a weight of it. */
export function fontFile(weight: keyof typeof FILES): string {
  const root = dirname(createRequire(import.meta.url).resolve('@expo-google-fonts/schibsted-grotesk/package.json'));
  return join(root, FILES[weight]);
}
