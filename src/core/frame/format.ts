import type { Box } from '../raster/raster.ts';

/** Width to height, as it is named to people. */
export interface Proportion {
  name: string;
  /** width over height */
  ratio: number;
}

const whole = (width: number, height: number): Proportion => ({ name: `${width}:${height}`, ratio: width / height });

/** Proportions that are asked for by name. 1:√2 is that of the ISO 216 paper sizes. Source of the list: common practice. */
export const PROPORTIONS: readonly Proportion[] = [
  whole(1, 1),
  whole(4, 5),
  whole(5, 4),
  whole(2, 3),
  whole(3, 2),
  whole(3, 4),
  whole(4, 3),
  whole(16, 9),
  whole(9, 16),
  { name: '1:√2', ratio: Math.SQRT1_2 },
  { name: '√2:1', ratio: Math.SQRT2 },
];

/**
 * A proportion by its name, or as two numbers such as `7:5`, `2.35:1` or `210×297`.
 * @returns null where it is none
 */
export function proportionOf(name: string): Proportion | null {
  const known = PROPORTIONS.find((p) => p.name === name.trim());
  if (known) return known;
  const size = sizeOf(name);
  return size && { name: `${size.width}:${size.height}`, ratio: size.width / size.height };
}

/** Two numbers, as sizes are written: `210 × 297`. @returns null where it is none, or no proportion a picture has */
export function sizeOf(text: string): { width: number; height: number } | null {
  const numbers = /^\s*(\d+(?:\.\d+)?)\s*[:x×/]\s*(\d+(?:\.\d+)?)\s*$/.exec(text);
  if (!numbers) return null;
  const [width, height] = [Number(numbers[1]), Number(numbers[2])];
  const ratio = width / height;
  return ratio >= MOST_EXTREME && ratio <= 1 / MOST_EXTREME ? { width, height } : null;
}

/** What a format asks for beside its proportion: a size on paper at a resolution, or pixels. */
export type Wanted =
  { by: 'print'; width: number; height: number; ppi: number } | { by: 'pixels'; width: number; height: number };

/** The narrowest proportion that is taken for one. */
const MOST_EXTREME = 1 / 20;

/** Where the subject stands across or down a picture: as a share of its width or height. */
export const PLACES = { 'first third': 1 / 3, centre: 1 / 2, 'second third': 2 / 3 } as const;
export type PlaceName = keyof typeof PLACES;

/** How the subject is to stand; `null` leaves that direction as it comes. */
export interface Placement {
  /** left third, middle, right third */
  across: PlaceName | null;
  /** upper third, middle, lower third */
  down: PlaceName | null;
}

/** What the picture is about. */
export interface SubjectPlace {
  box: Box;
  /** what is to stand on a third, such as the eyes: px; the middle of the box where nothing else is said */
  focus: [number, number];
  /** where it looks or moves to: more room is kept there (look room); 0 where it does neither */
  looks: -1 | 0 | 1;
}

/** px by which a box reaches beyond another on each side; negative where it cuts into it. */
export interface Sides {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** What is added to a box on each side to make another of it, px; negative where it is cut. */
export const sidesBetween = (from: Box, to: Box): Sides => ({
  left: from.x - to.x,
  top: from.y - to.y,
  right: to.x + to.width - from.x - from.width,
  bottom: to.y + to.height - from.y - from.height,
});
