import type { Point, Shape } from '../mask/shapes.ts';
import type { Stroke } from '../mask/strokes.ts';
import type { Box } from '../raster/raster.ts';
import type { FillSettings } from './fill/settings.ts';
import type { Donor } from './hand/donor.ts';

/** What every spec names beside its settings. */
interface Versioned {
  /** version of its method that it was made for; without one the first */
  version?: number;
  /**
   * The canvas it was made on, where there was one: what it reads ends at the box around that and the source, whatever becomes of
   * the canvas later. Without one it ends with the source.
   */
  canvas?: Box;
}

/** All that decides a fill, apart from the pixels beneath. */
export interface FillSpec extends FillSettings, Versioned {
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
  /** other faults that were open when the fill was made: their pixels are unknown to it */
  avoid: Shape[];
  /** px by which those exceed their shapes */
  avoidMargin?: number;
  /** what lies under those faults themselves is filled along and thrown away: theirs is to be treated by their own repairs */
  spares?: boolean;
  /** the fall-off of light is taken off first and carried on over what is filled, where there is one */
  light?: boolean;
  /** lines along which an edge runs on inside the cover */
  edges?: Shape[];
  /** strokes that a ground, the one they begin on, is dragged along over its border */
  grounds?: Shape[];
}

/** A layer that came with the picture's file, as it is. */
export interface GivenSpec extends Versioned {
  method: 'given';
  /** which of the file's layers, counted from the bottom */
  index: number;
  /** where it lies */
  box: Box;
}

/** The donor's pixels as they are, along strokes. */
export interface CopySpec extends Versioned {
  method: 'copy';
  strokes: Stroke[];
  donor: Donor;
}

/** The donor's texture with the tone of the surroundings, along strokes. */
export interface BlendSpec extends Versioned {
  method: 'blend';
  strokes: Stroke[];
  /** null: the best place nearby is taken */
  donor: Donor | null;
  /** faults that were open when it was made; a donor that is searched for keeps off them */
  avoid: Shape[];
}

/** An outlined area from another place. */
export interface PatchSpec extends Versioned {
  method: 'patch';
  cover: Shape[];
  /** px over which the cover's edge falls off, inwards */
  feather: number;
  /** tone from the surroundings; otherwise the pixels as they are */
  blended: boolean;
  donor: Donor;
}

/** A lifted piece, put down moved, turned, sized, mirrored and bent. */
export interface TransplantSpec extends Versioned {
  method: 'transplant';
  /** the piece where it is lifted */
  piece: Shape[];
  feather: number;
  blended: boolean;
  donor: Donor;
  /** px by which each handle of a grid of 3 × 3 over the piece is moved, by rows from the top left; in the piece's own frame */
  bend: Point[];
}

/** Lightens or darkens by tone range, built up in passes; or gives a soft area the grain of its surroundings. */
export interface ShadeSpec extends Versioned {
  method: 'shade';
  strokes: Stroke[];
  effect: 'tone' | 'grain';
  /** exposure of one full pass: + lightens, − darkens, in doublings of light; for grain unused */
  stops: number;
  range: 'all' | 'shadows' | 'mid-tones' | 'highlights';
  seed: number;
}

/** What lies over the picture and lets it through is taken off. */
export interface LiftSpec extends Versioned {
  method: 'lift';
  /** its outline, roughly drawn: the true edge is looked for */
  cover: Shape[];
  /** 1: as much as was measured */
  amount: number;
  /** also where it is not sure; otherwise such a place is left as it is */
  anyway?: boolean;
  /** other faults that were open when it was made; they say nothing of this place */
  avoid: Shape[];
}

/** How a background is drawn out. */
export const STRETCH_WAYS = ['smooth', 'seams'] as const;
export type StretchWay = (typeof STRETCH_WAYS)[number];

/** The background drawn out over what the canvas adds. */
export interface StretchSpec extends Versioned {
  method: 'stretch';
  /** what it is drawn out from: all of the picture that is there */
  from: Box;
  /** what it comes to fill: the canvas */
  onto: Box;
  /** what stays as it is, to the pixel, and where it is */
  guard: Shape[];
  /** drawn out smoothly, or by seams that are inserted where they show least; smoothly where left out */
  way?: StretchWay;
}

/** A moulding laid along the line between backdrop and floor. */
export interface StripSpec extends Versioned {
  method: 'strip';
  /** its corners: upper left, upper right, lower right, lower left */
  corners: [Point, Point, Point, Point];
  /** how far it stands out from its upper edge (0) to its lower (1), in shares of its height; see `strip/profile` */
  profile: Point[];
  /** 1: shaded as lit from above; 0: flat */
  relief: number;
  /** how much lighter than what is above it: + lighter, − darker, in doublings of light */
  stops: number;
  /** how dark its shadow on the floor is, 0 to 1 */
  shadow: number;
  /** what stands before it */
  guard: Shape[];
}

/** One treatment, complete: rendering it again over the same pixels gives the same bytes. */
export type RepairSpec =
  | FillSpec
  | LiftSpec
  | StretchSpec
  | StripSpec
  | GivenSpec
  | CopySpec
  | BlendSpec
  | PatchSpec
  | TransplantSpec
  | ShadeSpec;
/** The methods that go along strokes. */
export type StrokedSpec = CopySpec | BlendSpec | ShadeSpec;
