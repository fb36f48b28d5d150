/** What is known of a kind of fault before one is measured. */
interface KindFacts {
  /** as groups and layers are headed */
  plural: string;
  /** as a group of a survey is headed where that says something else: things found by how they draw the eye are no objects yet */
  found?: string;
  /** place in the order of work: damage of a print first, then things, then what a picture is made of (common practice) */
  stage: number;
  /** minutes by hand for one, while nothing has been logged; common practice, from memory */
  minutes: number;
  /** whether taking it away changes what the picture shows, beyond dust and damage */
  changesScene: boolean;
  /** drawn along a line, so that strokes along it repair it */
  line?: true;
  /** a part of it that is left is no ghost but a weaker one: how strongly an editor took one off is remembered (common practice) */
  byDegrees?: true;
  /** lies over the picture and lets it through: it is taken off, and what is beneath is kept (common practice) */
  lifted?: true;
  /** a loss along a line with a paler or darker band on both sides of it, which lets the picture through */
  banded?: true;
  /** several strands are as wide as each of them, not as all together */
  strands?: true;
}

/** Every kind of fault, a line each; the place in the list is the place in menus. */
export const KINDS = {
  speck: { plural: 'Specks', stage: 3, minutes: 0.15, changesScene: false },
  hair: { plural: 'Hairs', stage: 3, minutes: 0.5, changesScene: false, line: true },
  scratch: { plural: 'Scratches', stage: 4, minutes: 1.5, changesScene: false, line: true },
  crease: { plural: 'Creases', stage: 5, minutes: 6, changesScene: false, line: true, banded: true },
  tear: { plural: 'Tears', stage: 1, minutes: 12, changesScene: false },
  stain: { plural: 'Stains', stage: 2, minutes: 5, changesScene: false, lifted: true, byDegrees: true },
  strand: { plural: 'Wires', stage: 6, minutes: 2, changesScene: true, line: true, strands: true },
  mesh: { plural: 'Mesh', stage: 6, minutes: 25, changesScene: true, strands: true },
  object: { plural: 'Objects', found: 'Stand-outs', stage: 8, minutes: 4, changesScene: true },
  lettering: { plural: 'Lettering', stage: 2, minutes: 6, changesScene: true },
  scuff: { plural: 'Scuffs', stage: 3, minutes: 0.7, changesScene: false },
  glare: { plural: 'Glare', stage: 7, minutes: 8, changesScene: true, lifted: true, byDegrees: true },
  shadow: { plural: 'Shadows', stage: 7, minutes: 4, changesScene: true, lifted: true, byDegrees: true },
  gap: { plural: 'Gaps', stage: 9, minutes: 5, changesScene: false },
} satisfies Record<string, KindFacts>;

export type FaultKind = keyof typeof KINDS;

/** The kinds, as a menu lists them. */
export const FAULT_KINDS = Object.keys(KINDS) as [FaultKind, ...FaultKind[]];

/** What is known of a kind. */
export const kindFacts = (kind: FaultKind): KindFacts => KINDS[kind];
