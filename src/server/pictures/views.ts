import type { TileView, Values, WayView } from '../../contract/views.ts';
import type { z } from 'zod';
import type { poseRequestSchema, proposalRequestSchema } from '../../contract/api.ts';
import type { Lean } from '../../core/frame/level.ts';
import type { SubjectMarks } from '../../core/find/subject.ts';
import { boundsWithin, shiftShapes, type Point, type Shape } from '../../core/mask/shapes.ts';
import type { WayAsked } from '../../core/plan/frame-ways.ts';
import { boxOf, contains, crop, intersect, isEmpty, type Box, type Raster } from '../../core/raster/raster.ts';
import { checkStep } from '../../document/edits/steps.ts';
import { Refused } from '../../contract/refused.ts';
import type { RunOptions } from '../work/pool.ts';
import { withinLimits } from './editing.ts';
import type { OpenPicture } from './open-picture.ts';
import type { Pictures } from './pictures.ts';
import type { PlacedPatch } from './stack.ts';
import { valuesAt } from './values.ts';

/** Shapes of open faults that a proposal keeps off: more change nothing that is seen from afar. */
const MOST_AVOIDED = 2000;
/** px of its longer side up to which a way is looked at before it is taken. */
const PREVIEWED = 640;

type Encoded = { bytes: Uint8Array; type: string };

const levelsOf = ({ view }: OpenPicture, which: 'original' | 'repaired') => {
  const { raster, pyramid } = which === 'original' ? view.before : view.after;
  return [raster, ...pyramid];
};
const meets = (s: PlacedPatch, box: Box) => !isEmpty(intersect(s.box, box));

/** @throws Refused when nothing of shapes lies on the canvas */
function refuseBeside(shapes: readonly Shape[], canvas: Box, what: string): void {
  if (isEmpty(boundsWithin(shapes, canvas)))
    throw new Refused(`${what} lies outside the picture. Choose a place on it.`);
}

/** What a canvas adds to the source: gaps, or what was made there, which lend nothing to what is proposed. */
function addedBy({ x, y, width, height }: Box, source: Raster): Shape[] {
  const [right, bottom] = [x + width, y + height];
  const sides: Box[] = [
    { x, y, width: -x, height },
    { x: source.width, y, width: right - source.width, height },
    { x, y, width, height: -y },
    { x, y: source.height, width, height: bottom - source.height },
  ];
  return sides.filter((b) => !isEmpty(b)).map((b) => ({ op: 'add', kind: 'box', ...b }));
}

/** A place of the canvas in px of the base. */
const fromCanvas = ({ x, y }: Box, at: Point): Point => [at[0] + x, at[1] + y];

/** What there is of the source in the finished picture, reduced; as it came where the canvas leaves some of it out. */
function reduced(picture: OpenPicture): { raster: Raster; scale: number } {
  const source = boxOf(picture.original);
  const { view } = picture;
  const stands = contains(view.box, source);
  const levels = levelsOf(picture, stands ? 'repaired' : 'original');
  const part = intersect(stands ? view.onCanvas(source) : source, boxOf(levels[0]));
  let level = 0;
  while (level < levels.length - 1 && Math.max(part.width, part.height) >> level > PREVIEWED) level++;
  // Whole px of that size alone: one that had some of the gap beside it would be taken for the picture.
  const [first, last] = [(v: number) => Math.ceil(v / 2 ** level), (v: number) => v >> level];
  const [x, y] = [first(part.x), first(part.y)];
  const small = { x, y, width: last(part.x + part.width) - x, height: last(part.y + part.height) - y };
  return { raster: crop(levels[level], intersect(small, boxOf(levels[level]))), scale: 2 ** level };
}

/** What people see of pictures in work, and what is asked of their pixels. Nothing here changes anything. */
export class Views {
  constructor(private readonly pictures: Pictures) {}

  tile(id: string, view: TileView, level: number, x: number, y: number, side: number): Promise<Encoded> {
    return this.pictures.use(id, async (picture) => {
      const raster = levelsOf(picture, view === 'original' ? view : 'repaired')[level];
      if (!raster) throw new Refused('There is no such tile.', 404);
      const box = intersect({ x: x * side, y: y * side, width: side, height: side }, boxOf(raster));
      if (isEmpty(box)) throw new Refused('There is no such tile.', 404);
      if (view === 'changes' || view.startsWith('only-')) return this.changesTile(picture, view, box, level);
      const other = view === 'difference' ? levelsOf(picture, 'original')[level] : undefined;
      return this.pictures.pool.run('tile', { raster, other, box, icc: picture.icc, lossless: level === 0 });
    });
  }

  private async changesTile(picture: OpenPicture, view: TileView, box: Box, level: number): Promise<Encoded> {
    const { x, y } = picture.view.box;
    const whole = {
      x: (box.x << level) + x,
      y: (box.y << level) + y,
      width: box.width << level,
      height: box.height << level,
    };
    const layer = view === 'changes' ? null : view.slice(5);
    const own = layer && new Set(picture.document.repairs.filter((r) => r.layerId === layer).map((r) => r.id));
    const placed = picture.placed.filter((s) => (!own || own.has(s.repairId)) && meets(s, whole));
    const { channels, depth } = picture.original;
    const layers = (await picture.patches.layers(placed)).map(({ patch, strength }) => ({
      patch: { ...patch, x: patch.x - x, y: patch.y - y },
      strength,
    }));
    return this.pictures.pool.run('changes', { kind: { channels, depth }, box, level, layers, icc: picture.icc });
  }

  /** A box of the picture, or all of it, at most `side` px large, as a picture file. */
  closeUp(id: string, part: Box | null, side: number, view: 'repaired' | 'original'): Promise<Encoded> {
    return this.pictures.use(id, async (picture) => {
      const box = part ?? picture.view.box;
      const levels = levelsOf(picture, view);
      let level = 0;
      while (level < levels.length - 1 && Math.max(box.width, box.height) >> level > side) level++;
      const raster = levels[level];
      const half = (v: number) => Math.max(1, v >> level);
      const { x, y, width, height } = picture.view.onCanvas(box);
      const scaled = { x: x >> level, y: y >> level, width: half(width), height: half(height) };
      const inside = this.inside(scaled, boxOf(raster));
      return this.pictures.pool.run('tile', { raster, box: inside, icc: picture.icc, lossless: false });
    });
  }

  /** Samples of one pixel, before and after its repairs; null beside the canvas. */
  values(id: string, [x, y]: Point): Promise<Values | null> {
    return this.pictures.use(id, ({ original, composite, view }) => valuesAt(original, composite, view.box, [x, y]));
  }

  /** A box of the picture as it would be with a rendering in use at full strength, as a picture file. */
  tryView(id: string, box: Box, key: string): Promise<Encoded> {
    return this.pictures.use(id, async (picture) => {
      const row = picture.index.byKey.get(key) ?? picture.sketchOf(key);
      if (!row) throw new Refused('There is no such rendering.', 404);
      const inside = this.inside(box, picture.view.field(picture.document));
      const placed = picture.stack().flatMap((e): PlacedPatch[] => {
        if (e.repair.tries.some((t) => t.id === row.tryId))
          return [{ repairId: e.repair.id, key, box: row.box, strength: 1, marks: [], reveal: '' }];
        return e.shown && e.shown.strength > 0 && meets(e.shown, inside) ? [e.shown] : [];
      });
      const raster = await this.region(picture, inside, placed);
      return this.pictures.pool.run('tile', { raster, box: boxOf(raster), icc: picture.icc, lossless: false });
    });
  }

  /** A rendering as PNG with alpha in screen colours. */
  patchView(id: string, key: string): Promise<{ bytes: Uint8Array }> {
    return this.pictures.use(id, async (picture) =>
      this.pictures.pool.run('patchView', { patch: await picture.patches.get(key), icc: picture.icc }),
    );
  }

  /** What draws the eye, as a picture file. */
  attention(id: string, options?: RunOptions): Promise<{ bytes: Uint8Array }> {
    return this.pictures.use(id, ({ composite }) =>
      this.pictures.pool.run('attention', { raster: composite }, options),
    );
  }

  private readonly leans = new WeakMap<OpenPicture, { of: string; lean: Lean | null }>();
  private readonly subjects = new WeakMap<OpenPicture, { of: string; shapes: Shape[] | null }>();

  /** What the picture is likely to be about: nothing that is still to be treated. */
  async subjectProposal(id: string, options?: RunOptions): Promise<Shape[] | null> {
    return this.pictures.use(id, async (picture) => {
      const { composite: raster, view, document } = picture;
      const { epoch, version } = picture.changes.pixels(Infinity);
      const faults = document.faults.filter((f) => f.state === 'open').flatMap((f) => f.shapes);
      const of = `${epoch}.${version}.${faults.length}`;
      const known = this.subjects.get(picture);
      if (known?.of === of) return known.shapes;
      const avoid = picture.onCanvas(faults.slice(0, MOST_AVOIDED));
      const found = await this.pictures.pool.run('subjectProposal', { raster, avoid }, options);
      const shapes = found.shapes && shiftShapes(found.shapes, view.box.x, view.box.y);
      this.subjects.set(picture, { of, shapes });
      return shapes;
    });
  }

  /** How far the picture leans, as it stands. */
  async lean(id: string, options?: RunOptions): Promise<Lean | null> {
    return this.pictures.use(id, async (picture) => {
      // Kept until its pixels are others: each look at Frame asks.
      const { epoch, version } = picture.changes.pixels(Infinity);
      const known = this.leans.get(picture);
      if (known?.of === `${epoch}.${version}`) return known.lean;
      const { lean } = await this.pictures.pool.run('lean', { raster: picture.composite }, options);
      this.leans.set(picture, { of: `${epoch}.${version}`, lean });
      return lean;
    });
  }

  /** The true outline of a subject, in the picture as it stands. */
  async subjectEdge(id: string, marks: SubjectMarks, options?: RunOptions): Promise<Shape[]> {
    return this.pictures.use(id, async (picture) => {
      const { composite: raster, view } = picture;
      const [keep, leave] = [picture.onCanvas([...marks.keep]), picture.onCanvas([...marks.leave])];
      const local = { within: view.onCanvas(marks.within), keep, leave };
      const { shapes } = await this.pictures.pool.run('subjectEdge', { raster, marks: local }, options);
      return shiftShapes(shapes, view.box.x, view.box.y);
    });
  }

  /** How a way to a canvas would look, from the finished picture reduced. @throws Refused where it cannot be gone */
  async way(id: string, asked: WayAsked, options?: RunOptions): Promise<WayView> {
    return this.pictures.use(id, async (picture) => {
      const source = boxOf(picture.original);
      const canvas = { step: 'canvas', box: asked.canvas } as const;
      checkStep(canvas, source, source);
      withinLimits(asked.canvas, this.pictures.limits);
      const { pool } = this.pictures;
      const open = picture.document.faults
        .filter((f) => f.state === 'open' && f.kind !== 'gap')
        .flatMap((f) => f.shapes);
      const made = await pool.run('way', { ...reduced(picture), asked: { ...asked, open } }, options);
      const { raster, signs } = made;
      const tile = { raster, box: boxOf(raster), icc: picture.icc, lossless: false };
      const { bytes, type } = await pool.run('tile', tile, options);
      const address = `data:${type};base64,${Buffer.from(bytes).toString('base64')}`;
      return { picture: address, signs, longSide: Math.max(raster.width, raster.height) };
    });
  }

  /** The pixels beneath a new repair on top of a layer (of all, without one), or beneath an existing repair, in a box. */
  beneath(id: string, box: Box, at: { layer?: string; repair?: string }): Promise<Raster> {
    return this.pictures.use(id, async (picture) => {
      const inside = this.inside(box, picture.view.field(picture.document));
      let entries = picture.stack();
      const { layers } = picture.document;
      if (at.repair) {
        const index = entries.findIndex((e) => e.repair.id === at.repair);
        if (index < 0) throw new Refused('This repair no longer exists.', 409);
        entries = entries.slice(0, index);
      } else if (at.layer) {
        const top = layers.findIndex((l) => l.id === at.layer);
        const upTo = new Set(layers.slice(0, top + 1).map((l) => l.id));
        if (top >= 0) entries = entries.filter((e) => upTo.has(e.repair.layerId));
      }
      const placed = entries.flatMap((e) =>
        e.shown && e.shown.strength > 0 && meets(e.shown, inside) ? [e.shown] : [],
      );
      return this.region(picture, inside, placed);
    });
  }

  /** What the adviser says of a place: settings, method, donors. */
  propose(id: string, request: z.infer<typeof proposalRequestSchema>, options?: RunOptions) {
    return this.pictures.use(id, async (picture) => {
      const { composite: raster, document, view } = picture;
      const { kind } = request;
      refuseBeside(request.shapes, view.box, 'This place');
      const open = document.faults.filter((f) => f.state === 'open').flatMap((f) => f.shapes);
      const avoid = picture.onCanvas([
        ...open.slice(0, MOST_AVOIDED),
        ...request.barred,
        ...addedBy(view.box, picture.original),
      ]);
      const donorPolicy = (await this.pictures.store.rulesOf(id)).donors;
      const shapes = picture.onCanvas(request.shapes);
      const proposal = await this.pictures.pool.run('propose', { raster, kind, shapes, avoid, donorPolicy }, options);
      const back = <T extends { at: Point }>(place: T): T => ({ ...place, at: fromCanvas(view.box, place.at) });
      return { ...proposal, donors: proposal.donors.map(back), twin: proposal.twin && back(proposal.twin) };
    });
  }

  /** The pose in which a piece fits a place of the picture as it stands. */
  solvePose(id: string, request: z.infer<typeof poseRequestSchema>, options?: RunOptions) {
    const { piece, rough, ignore, ...pose } = request;
    return this.pictures.use(id, async (picture) => {
      const { composite: raster, view } = picture;
      refuseBeside(piece, view.box, 'The piece');
      const [x, y] = [rough[0] - view.box.x, rough[1] - view.box.y];
      if (x < 0 || y < 0 || x > raster.width || y > raster.height)
        throw new Refused('The place for the piece lies outside the picture. Put it down on the picture first.');
      const input = {
        raster,
        piece: picture.onCanvas(piece),
        rough: [x, y] as Point,
        options: { ...pose, ignore: picture.onCanvas(ignore) },
      };
      const solved = await this.pictures.pool.run('pose', input, options);
      return { ...solved, at: fromCanvas(view.box, solved.at) };
    });
  }

  private inside(box: Box, area: Box): Box {
    const inside = intersect(box, area);
    if (isEmpty(inside)) throw new Refused('This place lies outside the picture.', 404);
    return inside;
  }

  private async region(picture: OpenPicture, box: Box, placed: PlacedPatch[]): Promise<Raster> {
    const layers = await picture.patches.layers(placed);
    return (await this.pictures.pool.run('region', { original: picture.original, box, layers })).raster;
  }
}
