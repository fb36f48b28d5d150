import type { Shape } from '../mask/shapes.ts';
import type { Box } from '../raster/raster.ts';
import type { FillSettings } from './fill/settings.ts';

/** All that decides a fill, apart from the pixels beneath. */
export interface FillSpec extends FillSettings {
  method: 'fill';
  /** the fault; margin and feather come on top */
  cover: Shape[];
  /** px that the cover exceeds the fault */
  margin: number;
  /** px over which the cover's edge falls off */
  feather: number;
  /** where donors may come from; empty = anywhere */
  donorArea: Shape[];
  /** where donors must not come from */
  barred: Shape[];
  /** other faults that were open when the fill was made; never sampled */
  avoid: Shape[];
}

/** A layer that came with the picture's file, as it is. */
export interface GivenSpec {
  method: 'given';
  /** which of the file's layers, counted from the bottom */
  index: number;
  /** where it lies */
  box: Box;
}

/** One treatment, complete: rendering it again over the same pixels gives the same bytes. */
export type RepairSpec = FillSpec | GivenSpec;
