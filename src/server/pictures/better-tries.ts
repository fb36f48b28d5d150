import { findingsOf } from '../../core/check/check.ts';
import type { Finding } from '../../core/check/finding.ts';
import { bestOf, showing } from '../../core/check/order.ts';
import type { Change, Repair, Try } from '../../contract/document.ts';
import { newId } from '../../contract/ids.ts';
import { remedied } from '../../document/edits/remedies.ts';
import type { OpenPicture } from './open-picture.ts';
import type { Pictures } from './pictures.ts';
import type { TryRenderer } from './try-renderer.ts';

/** Further tries that are made by themselves while the best still shows, at most. */
const ROUNDS = 2;

/** A fill that was just made. */
export interface JustMade {
  pictureId: string;
  repairId: string;
  /** number of the edit that it came with: nothing is chosen or tried once another touches the fill, or a fault that it treats */
  edit: number;
}

const repairOf = ({ document }: OpenPicture, id: string): Repair | undefined =>
  document.repairs.find((r) => r.id === id);
/** Findings of each try, as it will about be seen; undefined where they are not measured. */
function foundIn({ index, view }: OpenPicture, { tries }: Repair): Array<Finding[] | undefined> {
  const longSide = Math.max(view.box.width, view.box.height);
  return tries.map(({ id }) => {
    const signs = index.byTry.get(id)?.signs;
    return signs ? findingsOf(signs, longSide) : undefined;
  });
}
const isDrawn = ({ spec }: Try) => spec.method === 'fill' && Boolean(spec.edges?.length || spec.grounds?.length);

/** Chooses among tries by what checks find in them, and makes further ones while the best still shows. */
export class BetterTries {
  constructor(
    private readonly pictures: Pictures,
    private readonly tries: TryRenderer,
  ) {}

  /**
   * Puts the best try of a fill in use, unless the editor chose, or did anything else to it or to what it treats; while that still shows and a remedy is
   * known, tries it, at most twice. All of it belongs to the edit of the fill: undo takes it back at once.
   * @returns whether what is in use would still be seen
   */
  async improve(made: JustMade, signal: AbortSignal): Promise<boolean> {
    const { pictureId, repairId } = made;
    await this.measure(made);
    for (let round = 0; ; round++) {
      await this.choose(made);
      if (round === ROUNDS || signal.aborted) break;
      const tryId = await this.addRemedy(made);
      if (!tryId) break;
      await this.tries.renderTry(pictureId, repairId, tryId, signal, () => undefined, true);
    }
    return this.pictures.use(pictureId, (picture) => {
      const repair = repairOf(picture, repairId);
      const found = repair && foundIn(picture, repair)[repair.tries.findIndex((t) => t.id === repair.chosen)];
      return found ? showing(found) !== undefined : false;
    });
  }

  /** Measures tries that were rendered and not measured yet. */
  private measure({ pictureId, repairId }: JustMade): Promise<void> {
    return this.pictures.use(pictureId, async (picture) => {
      const entries = picture.stack();
      const at = entries.findIndex((e) => e.repair.id === repairId);
      for (const { id } of entries[at]?.repair.tries ?? []) await this.tries.judge(picture, entries, at, id);
    });
  }

  private change(
    { pictureId, repairId, edit }: JustMade,
    work: (picture: OpenPicture, repair: Repair) => Repair | null,
  ): Promise<boolean> {
    return this.pictures.inTurn(pictureId, async (picture) => {
      const repair = repairOf(picture, repairId);
      const after = repair && !repair.tries.some(isDrawn) ? work(picture, repair) : null;
      if (!repair || !after) return false;
      const change: Change = { kind: 'repair', id: repairId, before: repair, after };
      const treated = repair.faultIds.map((id) => ({ kind: 'fault' as const, id }));
      return this.pictures.amend(picture, edit, [change], treated);
    });
  }

  private choose(made: JustMade): Promise<boolean> {
    return this.change(made, (picture, repair) => {
      const best = repair.tries[bestOf(foundIn(picture, repair))];
      return best.id === repair.chosen ? null : { ...repair, chosen: best.id };
    });
  }

  /** Adds a try against what shows of the one in use. @returns its id, null where there is nothing to try */
  private async addRemedy(made: JustMade): Promise<string | null> {
    const id = newId();
    const added = await this.change(made, (picture, repair) => {
      const at = repair.tries.findIndex((t) => t.id === repair.chosen);
      const found = foundIn(picture, repair)[at];
      const worst = found && showing(found);
      if (!worst) return null;
      const specs = repair.tries.map((t) => t.spec);
      const next = remedied(repair.tries[at].spec, worst, specs, 1 + specs.length * 7919);
      return next && { ...repair, tries: [...repair.tries, { id, ...next }] };
    });
    return added ? id : null;
  }
}
