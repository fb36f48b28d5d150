import type { Raster } from '../raster/raster.ts';
import type { Shape } from '../mask/shapes.ts';
import { creases } from './finders/creases.ts';
import { thinLines } from './lines/thin-lines.ts';
import { differenceOf } from './scoring/difference.ts';
import type { Find, Finder, FoundKind } from './find.ts';
import { gaps } from './finders/gaps.ts';
import { lumaPlane } from '../raster/luma.ts';
import { stains, tears } from './finders/stains-and-tears.ts';
import { scuffs } from './finders/scuffs.ts';
import { specks } from './specks/specks.ts';
import { saliency } from './finders/saliency.ts';

/** Every finder, one line each: what it finds and about how its time compares with the others'. */
const FINDERS = {
  specks: { finder: specks, kinds: ['speck'], cost: 5 },
  curves: { finder: thinLines, kinds: ['hair', 'scratch', 'strand'], cost: 7 },
  creases: { finder: creases, kinds: ['crease'], cost: 1 },
  tears: { finder: tears, kinds: ['tear'], cost: 0.3 },
  stains: { finder: stains, kinds: ['stain', 'lettering'], cost: 0.5 },
  scuffs: { finder: scuffs, kinds: ['scuff'], cost: 1 },
  standouts: { finder: saliency, kinds: ['object'], cost: 0.3 },
  gaps: { finder: gaps, kinds: ['gap'], cost: 0.3 },
} satisfies Record<string, { finder: Finder; kinds: FoundKind[]; cost: number }>;

export type FinderName = keyof typeof FINDERS;
export const FINDER_NAMES = Object.keys(FINDERS) as FinderName[];

/** What is to be surveyed. */
export interface SurveyOptions {
  /** which finders run; all of them when left out */
  finders?: readonly FinderName[];
  backdrop?: Shape[];
  subject?: Shape[];
  onProgress?: (done: number, finder: FinderName) => void;
}

/** Finds in a picture, surest first, with the finder that saw them. */
export type Surveyed = Find & {
  finder: FinderName;
  /** colour difference CIEDE2000 to what is around it */
  difference: number;
};

/** Most finds kept of one finder: more than anybody looks through. */
const MOST = 4000;

/** Divides finders among threads, so that each has about as much to do. */
export function sharesOf(names: readonly FinderName[], threads: number): FinderName[][] {
  const shares = Array.from({ length: threads }, () => ({ names: [] as FinderName[], cost: 0 }));
  for (const name of [...names].sort((a, b) => FINDERS[b].cost - FINDERS[a].cost)) {
    const least = shares.reduce((a, b) => (b.cost < a.cost ? b : a));
    least.names.push(name);
    least.cost += FINDERS[name].cost;
  }
  return shares.map((s) => s.names).filter((list) => list.length > 0);
}

/** Looks a picture over with every finder asked for. Nothing is changed. `onProgress` may throw to cancel. */
export function survey(picture: Raster, options: SurveyOptions = {}): Surveyed[] {
  return mergeFinds(picture, runFinders(picture, options));
}

/** What the finders asked for see, each for itself; see {@link mergeFinds}. */
export function runFinders(picture: Raster, options: SurveyOptions = {}): Surveyed[] {
  const names = options.finders ?? FINDER_NAMES;
  const luma = lumaPlane(picture);
  const total = names.reduce((s, n) => s + FINDERS[n].cost, 0);
  const out: Surveyed[] = [];
  let done = 0;
  for (const name of names) {
    const { finder, cost } = FINDERS[name];
    const input = { picture, luma, backdrop: options.backdrop, subject: options.subject };
    const finds = finder.find(input, (f) => options.onProgress?.((done + f * cost) / total, name));
    for (const find of finds.sort((a, b) => b.score - a.score).slice(0, MOST)) {
      out.push({ ...find, finder: name, difference: 0 });
    }
    done += cost;
    options.onProgress?.(done / total, name);
  }
  return out;
}

/** Finds of several finders as one list: what belongs to another find is left out, colour differences are measured. */
export function mergeFinds(picture: Raster, finds: Surveyed[]): Surveyed[] {
  const kept = withoutDoubles(finds).sort((a, b) => b.score - a.score);
  for (const find of kept) find.difference = differenceOf(picture, find.shapes);
  return kept;
}

/** px beside a crease or a tear in which its pale band may be taken for something of its own. */
const PALE: Partial<Record<FoundKind, number>> = { stain: 40, lettering: 40 };

/** What lies inside a larger find of another kind is part of it: specks on a scratch, lines along a crease. */
function withoutDoubles(finds: Surveyed[]): Surveyed[] {
  const large = finds.filter((f) => f.score >= 0.5 && (f.kind === 'crease' || f.kind === 'tear' || f.kind === 'gap'));
  const lines = finds.filter((f) => f.finder === 'curves' && f.score >= 0.5);
  return finds.filter((f) => {
    if (large.includes(f)) return true;
    const [cx, cy] = [f.box.x + f.box.width / 2, f.box.y + f.box.height / 2];
    if (large.some((l) => covers(l, cx, cy, PALE[f.kind] ?? 3))) return false;
    return f.kind !== 'speck' || !lines.some((l) => covers(l, cx, cy, 1.5));
  });
}

function covers({ box, shapes, width }: Find, x: number, y: number, slack: number): boolean {
  if (x < box.x - slack || y < box.y - slack || x > box.x + box.width + slack || y > box.y + box.height + slack)
    return false;
  const [shape] = shapes;
  if (shape.kind !== 'strand') return true;
  const reach = width / 2 + slack;
  for (let i = 1; i < shape.points.length; i++) {
    const [a, b] = [shape.points[i - 1], shape.points[i]];
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const t = Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / (dx * dx + dy * dy || 1)));
    if (Math.hypot(x - a[0] - t * dx, y - a[1] - t * dy) < reach) return true;
  }
  return false;
}
