/** How tone is taken over from the surroundings: not at all, at half weight, or fully (membrane). */
export type Tone = 'none' | 'gentle' | 'strong';

/**
 * Ways of filling that differ in kind. Thin covers: `faithful` predicts from the pixels beside and restores grain,
 * `smooth` keeps the grain low, `straight` lets edges that run nearly along them go straight on, `textured` copies detail from donors. Wide covers: `first`, `second` and `third` are laid out
 * differently, in the order in which the layouts are to be preferred; `near` searches patch by patch close by, `far` widely with
 * larger patches, `lines` with small ones.
 */
export type FillStyle =
  'faithful' | 'smooth' | 'straight' | 'textured' | 'first' | 'second' | 'third' | 'near' | 'far' | 'lines';

/** The styles that lay a cover out before they fill it, in their order. */
export const LAID_OUT = ['first', 'second', 'third'] as const;
export type LaidOutStyle = (typeof LAID_OUT)[number];

/** The styles that predict thin covers from the pixels beside them. */
export const PREDICTED = ['faithful', 'smooth', 'straight'] as const;
export type PredictedStyle = (typeof PREDICTED)[number];

/** Whether a style predicts. */
export const isPredicted = (style: FillStyle): style is PredictedStyle =>
  (PREDICTED as readonly string[]).includes(style);

/** Whether a style lays the cover out. */
export const isLaidOut = (style: FillStyle): style is LaidOutStyle => (LAID_OUT as readonly string[]).includes(style);

/** What decides how a region is filled. */
export interface FillSettings {
  seed: number;
  style: FillStyle | 'auto';
  tone: Tone;
  /** donors may also be turned, scaled or mirrored */
  turn: boolean;
  scale: boolean;
  mirror: boolean;
}

export const DEFAULT_FILL: FillSettings = {
  seed: 1,
  style: 'auto',
  tone: 'strong',
  turn: false,
  scale: false,
  mirror: false,
};

/** Deepest place in px (half the width) up to which a cover counts as thin and is predicted rather than searched. */
export const THIN_DEPTH = 8;

/** Depth in px up to which places where thin strands cross are predicted along with them. */
export const CROSSING_DEPTH = 12;

/** The depth that decides how strands and meshes are filled: where they cross they are deeper than they are wide. */
export const depthOfStrands = (depth: number): number =>
  depth <= CROSSING_DEPTH ? Math.min(depth, THIN_DEPTH) : depth;

/** The three different tries for a cover, by its depth in px; the first is the one proposed. */
export function stylesFor(depth: number): [FillStyle, FillStyle, FillStyle] {
  return depth <= THIN_DEPTH ? ['faithful', 'smooth', 'textured'] : ['first', 'second', 'third'];
}

/** Standard deviation in px of the blur that separates grain from tone. */
export const GRAIN_SIGMA = 2;

/** How far around a cover a layout looks, as a multiple of its size, and the least and most px. */
const LAID_OUT_REACH = 1.5;
const LEAST_LAID_OUT = 56;
const MOST_LAID_OUT = 2400;

/** How far in px beyond a cover, by its longer side, a style looks for donors. */
export function reachOf(style: FillStyle, size: number): number {
  if (isLaidOut(style)) return Math.round(Math.min(MOST_LAID_OUT, Math.max(LEAST_LAID_OUT, LAID_OUT_REACH * size)));
  const share = style === 'far' ? 1.4 : 0.7;
  return Math.round(Math.min(900, Math.max(style === 'far' ? 160 : 72, size * share)));
}

export const PATCH_RADIUS: Record<'near' | 'far' | 'lines' | 'textured', number> = {
  near: 4,
  far: 5,
  lines: 3,
  textured: 2,
};
