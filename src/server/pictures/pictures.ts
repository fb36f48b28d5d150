import type { PictureChanges, PictureState } from '../../contract/api.ts';
import { operationsOf } from '../../document/operations.ts';
import type { Change } from '../../contract/document.ts';
import type { Point } from '../../core/mask/shapes.ts';
import { boxOf, contains, intersect, isEmpty, type Raster } from '../../core/raster/raster.ts';
import { type Limits } from '../../codec/limits.ts';
import { Refused } from '../../contract/refused.ts';
import type { Events } from '../background/events.ts';
import type { StoreClient } from '../store/client.ts';
import type { RequestName, RowName } from '../store/journal.ts';
import type { Pool } from '../work/pool.ts';
import { Cache } from './cache.ts';
import { OpenPicture } from './open-picture.ts';
import { Turns } from './turns.ts';

/** The pictures in work: opened when asked for, edited one thing after another, each with one owner of its turn. */
export class Pictures {
  private readonly cache: Cache<OpenPicture>;
  private readonly turns = new Turns();
  /** hears of pictures that were opened, whose repairs may want rendering */
  onOpened: (id: string) => void = () => undefined;
  /** hears of edits that are in force */
  onEdited: (picture: OpenPicture) => void = () => undefined;

  constructor(
    readonly store: StoreClient,
    readonly pool: Pool,
    readonly events: Events,
    readonly limits: Limits,
    cacheBytes: number,
  ) {
    this.cache = new Cache(async (id) => {
      const picture = await OpenPicture.load(id, { store, pool, limits, patchBytes: cacheBytes / 4 });
      this.onOpened(id);
      return picture;
    }, cacheBytes);
  }

  /** Works with an open picture, which stays open until then. */
  use<T>(id: string, work: (picture: OpenPicture) => Promise<T> | T): Promise<T> {
    return this.cache.use(id, work);
  }

  /** The same, after everything else that was asked for of this picture's turn. */
  inTurn<T>(id: string, work: (picture: OpenPicture) => Promise<T>): Promise<T> {
    return this.turns.run(id, () => this.cache.use(id, work));
  }

  /**
   * Puts an edit on disk, then in force, and lays on what it changed. Only in the picture's turn.
   * @param answer kept under the request's name, for when it comes again
   */
  async apply(
    picture: OpenPicture,
    label: string,
    changes: readonly Change[],
    request?: RequestName,
    answer?: unknown,
  ): Promise<void> {
    const operations = operationsOf(changes);
    const revision = await this.store.applyEdit(picture.id, label, operations, request, answer);
    picture.edited(operations, revision, { undo: label, redo: null });
    picture.lastEdit.note(request?.window, picture.changes.mark);
    this.onEdited(picture);
    await this.show(picture);
  }

  /**
   * Adds to an edit in force, so that undo takes back both at once. Only in the picture's turn.
   * @param number of that edit
   * @param untouched rows that nothing may have touched since, beside those that change
   * @returns whether it was: the edit is not undone, and nothing touched those rows since
   */
  async amend(
    picture: OpenPicture,
    number: number,
    changes: readonly Change[],
    untouched: readonly RowName[],
  ): Promise<boolean> {
    const operations = operationsOf(changes);
    const revision = await this.store.amendEdit(picture.id, number, operations, untouched);
    if (revision === null) return false;
    picture.edited(operations, revision, picture.steps);
    this.onEdited(picture);
    await this.show(picture);
    return true;
  }

  /** Number of the last edit of a picture. */
  async lastEdit(id: string): Promise<number> {
    return (await this.store.picture(id))?.cursor ?? 0;
  }

  /** Takes the last edit back or the next one forward again, and lays on what it changed. Only in the picture's turn. */
  async step(picture: OpenPicture, direction: -1 | 1, request?: RequestName): Promise<string | null> {
    const done = await this.store.step(picture.id, direction, request);
    if (!done) return null;
    picture.edited(done.operations, done.revision, await this.store.steps(picture.id));
    picture.lastEdit.note(request?.window, picture.changes.mark);
    picture.forgetFailures();
    this.onEdited(picture);
    await this.show(picture);
    return done.label;
  }

  /** Lays on what changed and tells open windows. Only in the picture's turn. */
  async show(picture: OpenPicture): Promise<void> {
    await picture.refresh();
    this.tell(picture);
  }

  tell(picture: OpenPicture): void {
    picture.statuses();
    this.events.send({ type: 'changed', pictureId: picture.id, mark: picture.changes.mark });
  }

  /** Does a named request once: one that comes again gets the answer of the first. Only in the picture's turn. */
  async once<T>(picture: OpenPicture, request: RequestName | undefined, work: () => Promise<T>): Promise<T> {
    const known = request && (await this.store.answerOf(picture.id, request));
    return known ? (known.answer as T) : work();
  }

  /** The picture as people see it: document, what is rendered, undo and redo. */
  async state(id: string): Promise<PictureState> {
    return this.use(id, async (picture) => {
      const row = await this.store.picture(id);
      if (!row) throw new Refused('This picture no longer exists.', 404);
      const statuses = picture.statuses();
      const { jobId, name, facts, joined } = row;
      const { document, revision, steps, changes } = picture;
      return {
        picture: { id, jobId, name, facts, revision, ...(joined && { joined }) },
        document,
        statuses,
        ...steps,
        pixels: changes.pixels(),
        mark: changes.mark,
      };
    });
  }

  /** What changed since a window last asked; the whole state where that is not known any more. */
  async since(id: string, mark: string): Promise<PictureChanges | PictureState> {
    const changes = await this.use(id, (picture) => this.changesOf(picture, mark));
    return changes ?? this.state(id);
  }

  /** What a survey looks over: the picture as it stands, without what the canvas adds; and where its corner lies. */
  async surveyed({ composite, view, original, patches, placed }: OpenPicture): Promise<{ raster: Raster; at: Point }> {
    const own = boxOf(original);
    if (contains(own, view.box)) return { raster: composite, at: [view.box.x, view.box.y] };
    const box = intersect(own, view.box);
    const layers = await patches.layers(placed.filter((s) => !isEmpty(intersect(s.box, box))));
    return { raster: (await this.pool.run('region', { original, box, layers })).raster, at: [box.x, box.y] };
  }

  /** Names the state of an open picture as it is now. */
  markOf(picture: OpenPicture): string {
    picture.statuses();
    return picture.changes.mark;
  }

  /** What changed on an open picture since a mark; null where that is not known any more. */
  changesOf(picture: OpenPicture, mark: string): PictureChanges | null {
    picture.statuses();
    const changes = picture.changes.since(mark, picture.document);
    return changes && { ...changes, revision: picture.revision, ...picture.steps };
  }

  /** Removes pictures from memory and, by `work`, from the store, after all edits of them that were asked for before. */
  remove(ids: readonly string[], work: () => Promise<unknown>): Promise<void> {
    const last = async () => {
      await work();
      for (const id of ids) this.cache.forget(id);
    };
    return ids.reduceRight<() => Promise<void>>((next, id) => () => this.turns.run(id, next), last)();
  }
}
