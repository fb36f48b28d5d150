/** Where a picture will be looked at: its long side in mm as a print or on a screen, and the eye's distance in mm. */
export interface Viewing {
  longSideMm: number;
  distanceMm: number;
}

/**
 * The distance from which a picture is usually looked at: one and a half times its long side, but never nearer than people
 * read (300 mm). Common practice.
 */
export const usualDistance = (longSideMm: number): number => Math.max(300, 1.5 * longSideMm);

/**
 * The angle in minutes of arc under which a length appears.
 * @param mm length at right angles to the line of sight
 * Source: geometry; one minute is the usual limit of a normal eye (visual acuity 1.0, ISO 8596).
 */
export const minutesOfArc = (mm: number, distanceMm: number): number =>
  (2 * Math.atan(mm / (2 * distanceMm)) * 180 * 60) / Math.PI;

/** Colour difference CIEDE2000 that is just noticed between neighbouring patches (common practice: about 2.3). */
const JUST_NOTICED = 2.3;

/** What is known of how well a fault is seen at delivery. */
export interface Visibility {
  /** across at delivery, mm */
  mm: number;
  /** across, minutes of arc */
  arc: number;
  /** how many times what can just be noticed; below 1 nobody sees it */
  times: number;
}

/**
 * How well a fault will be seen: its colour difference over what is just noticed. What is smaller than a minute of arc is not
 * resolved but may still be seen; it loses in proportion to its area (Ricco's law of areal summation, from memory).
 *
 * @param acrossPx width of the fault where it is widest
 * @param alongPx its length
 * @param difference CIEDE2000 to its surroundings
 */
export function visibilityOf(
  { acrossPx, alongPx, difference }: { acrossPx: number; alongPx: number; difference: number },
  pictureLongSidePx: number,
  viewing: Viewing,
): Visibility {
  const perPx = viewing.longSideMm / pictureLongSidePx;
  const mm = acrossPx * perPx;
  const arc = minutesOfArc(mm, viewing.distanceMm);
  const along = minutesOfArc(alongPx * perPx, viewing.distanceMm);
  return { mm, arc, times: (difference / JUST_NOTICED) * Math.min(1, arc) * Math.min(1, along) };
}
