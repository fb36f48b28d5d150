import type { PixelVersions } from '../../contract/api.ts';

/** Names pixels, which may be kept for as long as they are the same. */
export const stampOf = ({ epoch, version }: Pick<PixelVersions, 'epoch' | 'version'>): string => `${epoch}.${version}`;
