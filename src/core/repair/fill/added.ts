import { boxShape, type Shape } from '../../mask/shapes.ts';
import type { Box } from '../../raster/raster.ts';
import type { FillSpec } from '../spec.ts';
import { DEFAULT_FILL } from './settings.ts';

/**
 * The fill of what a canvas adds to a picture, still to be dated: in the light that falls there.
 * @param strips what is added, px
 * @param subject nothing of it is taken
 */
export const fillOfAdded = (strips: readonly Box[], subject: readonly Shape[] = []): FillSpec => ({
  ...DEFAULT_FILL,
  method: 'fill',
  cover: strips.map((strip) => boxShape(strip)),
  margin: 0,
  feather: 0,
  donorArea: [],
  barred: [...subject],
  avoid: [],
  style: 'first',
  light: true,
});
