import { Refused } from '../../contract/refused.ts';
import type { Patch, PatchLayer } from '../../core/raster/patch.ts';
import type { StoreClient } from '../store/client.ts';
import type { Pool } from '../work/pool.ts';
import { marksText } from './keys.ts';
import type { PlacedPatch, RenderIndex } from './stack.ts';

interface Kept {
  patch: Promise<Patch>;
  bytes: number;
}

/** Renderings of one picture in memory, those used last; others are read from the store again. */
export class Patches {
  private readonly kept = new Map<string, Kept>();
  private readonly pinned = new Map<string, Patch>();

  constructor(
    private readonly store: StoreClient,
    private readonly pool: Pool,
    private readonly index: RenderIndex,
    private readonly mostBytes: number,
  ) {}

  bytes(): number {
    let sum = 0;
    for (const { bytes } of this.kept.values()) sum += bytes;
    for (const { data } of this.pinned.values()) sum += data.byteLength;
    return sum;
  }

  /** Holds a sketch, which is in memory only, until {@link unpin}. */
  pin(key: string, patch: Patch): void {
    this.pinned.set(key, patch);
  }

  unpin(key: string): void {
    this.pinned.delete(key);
  }

  /** A rendering, or a sketch, by its key. */
  get(key: string): Promise<Patch> {
    const sketch = this.pinned.get(key);
    if (sketch) return Promise.resolve(sketch);
    return this.keep(key, async () => {
      const row = this.index.byKey.get(key);
      if (!row) throw new Refused('There is no such rendering.', 404);
      const packed = await this.store.readBlob(row.patch);
      return (await this.pool.run('unpack', { packed })).patch;
    });
  }

  put(key: string, patch: Patch): void {
    this.kept.delete(key);
    this.kept.set(key, { patch: Promise.resolve(patch), bytes: patch.data.byteLength });
    this.trim();
  }

  /** A rendering of which only what its marks show is left. */
  revealed({ key, marks, reveal }: PlacedPatch): Promise<Patch> {
    if (!reveal) return this.get(key);
    return this.keep(`${key}.${reveal}`, async () => {
      const patch = await this.get(key);
      return (await this.pool.run('reveal', { patch, marks: marksText(marks) })).patch;
    });
  }

  /** Lets go of a rendering with marks that no longer stand. */
  drop({ key, reveal }: PlacedPatch): void {
    if (reveal) this.kept.delete(`${key}.${reveal}`);
  }

  async layers(list: readonly PlacedPatch[]): Promise<PatchLayer[]> {
    return Promise.all(list.map(async (s) => ({ patch: await this.revealed(s), strength: s.strength })));
  }

  private keep(name: string, make: () => Promise<Patch>): Promise<Patch> {
    const known = this.kept.get(name);
    if (known) {
      // Asked for last: it goes last.
      this.kept.delete(name);
      this.kept.set(name, known);
      return known.patch;
    }
    const entry: Kept = { patch: make(), bytes: 0 };
    this.kept.set(name, entry);
    entry.patch.then(
      (patch) => {
        entry.bytes = patch.data.byteLength;
        this.trim();
      },
      () => this.kept.get(name) === entry && this.kept.delete(name),
    );
    return entry.patch;
  }

  private trim(): void {
    let bytes = this.bytes();
    for (const [name, entry] of this.kept) {
      if (bytes <= this.mostBytes) return;
      if (!entry.bytes) continue;
      bytes -= entry.bytes;
      this.kept.delete(name);
    }
  }
}
