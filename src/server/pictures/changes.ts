import type { PictureChanges, PixelVersions, RepairStatus } from '../../contract/api.ts';
import type { Operation, PictureDocument, Sent } from '../../contract/document.ts';
import { sent } from '../../document/operations.ts';
import type { Box } from '../../core/raster/raster.ts';
import { TILE_SIDE } from '../../core/raster/pyramid.ts';

/** Edits that are remembered for windows that ask what they missed; one that missed more reads everything again. */
const REMEMBERED = 400;
/** px beside a box that its change can be seen in, in halved views. */
const MARGIN = 8;

/** Everything that changed of an open picture, numbered, so that a window gets what it has not seen yet and no more. */
export class Changes {
  /** number of the last change */
  private last = 0;
  /** changes up to this one are no longer known singly */
  private floor = 0;
  private edits: Array<{ at: number; operations: Sent[] }> = [];
  /** how each repair stands, when that changed, and when more of it did than its state */
  private readonly statuses = new Map<string, { at: number; wholeAt: number; status: RepairStatus }>();
  private order: string[] = [];
  private readonly across: number;
  /** version of each tile of the full size, and when it got it */
  private readonly tiles: Uint32Array;
  private readonly tileAt: Uint32Array;
  private version = 0;

  constructor(
    /** names this opening of the picture, so that a browser never shows tiles kept from an earlier one */
    readonly epoch: string,
    width: number,
    height: number,
  ) {
    this.across = Math.ceil(width / TILE_SIDE);
    const count = this.across * Math.ceil(height / TILE_SIDE);
    this.tiles = new Uint32Array(count);
    this.tileAt = new Uint32Array(count);
  }

  /** Names the state as it is now. */
  get mark(): string {
    return `${this.epoch}.${this.last}`;
  }

  edited(operations: readonly Operation[]): void {
    this.edits.push({ at: ++this.last, operations: sent(operations) });
    if (this.edits.length > REMEMBERED) this.floor = this.edits.shift()!.at;
  }

  /** Notes that pixels in boxes are others now. To be told once they are. */
  painted(boxes: readonly Box[]): void {
    if (!boxes.length) return;
    this.version++;
    this.last++;
    for (const { x, y, width, height } of boxes) {
      const cell = (v: number) => Math.max(0, Math.floor(v / TILE_SIDE));
      for (let row = cell(y - MARGIN); row <= cell(y + height - 1 + MARGIN); row++)
        for (
          let column = cell(x - MARGIN);
          column <= Math.min(this.across - 1, cell(x + width - 1 + MARGIN));
          column++
        ) {
          const n = row * this.across + column;
          if (n >= this.tiles.length) continue;
          this.tiles[n] = this.version;
          this.tileAt[n] = this.last;
        }
    }
  }

  /** Notes how repairs stand; those that are the same object as before count as unchanged. */
  stand(statuses: readonly RepairStatus[]): void {
    const changed = statuses.filter((s) => this.statuses.get(s.id)?.status !== s);
    this.order = statuses.map((s) => s.id);
    if (!changed.length) return;
    this.last++;
    for (const status of changed) {
      const old = this.statuses.get(status.id);
      const onlyState = old?.status.tries === status.tries && old.status.message === status.message;
      this.statuses.set(status.id, { at: this.last, wholeAt: onlyState ? old.wholeAt : this.last, status });
    }
  }

  allStatuses(): RepairStatus[] {
    return this.order.map((id) => this.statuses.get(id)!.status);
  }

  pixels(since = 0): PixelVersions {
    const tiles: Array<[number, number]> = [];
    this.tiles.forEach((version, n) => version && this.tileAt[n] > since && tiles.push([n, version]));
    return { epoch: this.epoch, version: this.version, across: this.across, tiles };
  }

  /** What changed since a mark; null when that is not known singly any more. */
  since(mark: string, { repairs }: PictureDocument): Omit<PictureChanges, 'revision' | 'undo' | 'redo'> | null {
    const [epoch, number] = mark.split('.');
    const at = Number(number);
    if (epoch !== this.epoch || !(at >= this.floor && at <= this.last)) return null;
    // Many repairs may become stale at once: of those whose state alone changed, only their place is sent.
    const states: PictureChanges['states'] = {};
    repairs.forEach(({ id }, place) => {
      const known = this.statuses.get(id);
      if (known && known.at > at && known.wholeAt <= at) (states[known.status.state] ??= []).push(place);
    });
    return {
      since: mark,
      mark: this.mark,
      operations: this.edits.filter((e) => e.at > at).flatMap((e) => e.operations),
      statuses: this.order.flatMap((id) => {
        const known = this.statuses.get(id)!;
        return known.wholeAt > at ? [known.status] : [];
      }),
      states,
      pixels: this.pixels(at),
    };
  }
}
