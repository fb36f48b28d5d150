import type { z } from 'zod';
import type { exportQuerySchema } from '../../contract/api.ts';
import type { PictureDocument } from '../../contract/document.ts';
import { EXPORTED, type ExportFormat } from '../../contract/exports.ts';
import { fileNameFrom } from '../../contract/file-names.ts';
import { USUAL_HAND_OVER } from '../../contract/hand-over.ts';
import type { RepairRecord } from '../../contract/record.ts';
import { SOFTWARE } from '../../contract/software.ts';
import type { Job } from '../../contract/studio.ts';
import { findingsOf } from '../../core/check/check.ts';
import type { Finding } from '../../core/check/finding.ts';
import { usualDistance } from '../../core/frame/visibility.ts';
import { boxOf, contains, intersect, isEmpty } from '../../core/raster/raster.ts';
import { specsOf } from '../../document/canvas.ts';
import { Refused } from '../../contract/refused.ts';
import type { Pool, RunOptions } from '../work/pool.ts';
import type { TaskInput } from '../work/kinds.ts';
import { Cancelled } from '../work/work.ts';
import type { OpenPicture } from './open-picture.ts';
import type { Pictures } from './pictures.ts';
import type { Renderings } from './renderings.ts';
import type { StackEntry } from './stack.ts';

/** Repairs named one by one in a refusal, at most. */
const NAMED = 5;

type Asked = z.infer<typeof exportQuerySchema>;

/** Files for delivery: made when everything that was asked for is in the picture, or refused with what is missing. */
export class Exports {
  constructor(
    private readonly pictures: Pictures,
    private readonly renderings: Renderings,
    private readonly pool: Pool,
  ) {}

  /**
   * Waits for all that is being rendered, then makes the file; one that is delivered is noted with its record.
   * @throws Refused when repairs are missing that could not be rendered, unless they are to be left out
   */
  async make(id: string, { format, missing }: Asked, options: RunOptions): Promise<MadeFile> {
    await this.ready(id, missing, options.signal);
    const { revision, ...input } = await this.input(id, format, missing);
    const { bytes, record } = await this.pool.run('export', input, { heavy: true, soon: true, ...options });
    const { store } = this.pictures;
    const deliveryId = record && (await store.saveDelivery(id, { revision, bytes: bytes.length, sent: false, record }));
    return { name: `${input.name}.${EXPORTED[format].ending}`, bytes, record, deliveryId };
  }

  /**
   * Waits for all that is being rendered.
   * @returns how many repairs are in the picture
   * @throws Refused when some are missing, unless they are to be left out
   */
  async ready(id: string, missing: Asked['missing'], signal?: AbortSignal): Promise<number> {
    // What was held back is wanted now.
    this.renderings.hold(id, false);
    await orStopped(this.renderings.idle(id), signal);
    return this.pictures.use(id, async (picture) => {
      const { length } = complete(picture, missing);
      if (missing === 'refuse') await this.refuseGaps(picture);
      return length;
    });
  }

  /** @throws Refused when a part of the canvas has no pixels */
  private async refuseGaps(picture: OpenPicture): Promise<void> {
    const { original, placed, patches, view, document } = picture;
    const steps = specsOf(document);
    if (contains(boxOf(original), view.box) && !steps.some((s) => s.step === 'turn')) return;
    const layers = await patches.layers(placed.filter((s) => !isEmpty(intersect(s.box, view.box))));
    const { share } = await this.pool.run('gaps', { original, steps, layers });
    if (!share) return;
    throw new Refused(
      `${Math.max(1, Math.round(100 * share))} % of the canvas is a gap without pixels. Mark and fill it, make the canvas smaller, or export as it is: gaps are grey then.`,
      409,
    );
  }

  private input(
    id: string,
    format: ExportFormat,
    missing: Asked['missing'],
  ): Promise<TaskInput<'export'> & { revision: number }> {
    return this.pictures.use(id, async (picture) => {
      const entries = complete(picture, missing);
      const { revision, version, ...parts } = await this.pictures.store.recordParts(id);
      const { job, facts, original, joined, times, minutes } = parts;
      const handOver = job.handOver ?? USUAL_HAND_OVER;
      const layers = picture.document.layers.map(async ({ id: layerId, name, opacity, visible }) => {
        const own = entries.filter((e) => e.repair.layerId === layerId && e.shown);
        const repairs = own.map(async (e) => ({
          id: e.repair.id,
          patch: await picture.patches.revealed(e.shown!),
          strength: e.repair.strength,
          visible: e.repair.visible,
          name: nameOf(picture, e),
        }));
        return { name, opacity, visible, repairs: await Promise.all(repairs) };
      });
      const now = Date.now();
      return {
        file: await this.pictures.store.readBlob(original),
        original: picture.original,
        steps: specsOf(picture.document),
        layers: await Promise.all(layers),
        format,
        handOver,
        sources: {
          software: SOFTWARE,
          now,
          job,
          handOver,
          facts,
          original,
          joined,
          document: seenOf(picture.document, entries),
          findings: findingsIn(picture, job),
          times,
          minutes,
        },
        name: fileNameFrom(handOver.template, {
          client: job.client,
          job: job.name,
          picture: parts.name.replace(/\.[a-z0-9]+$/i, ''),
          version,
          date: new Date(now).toISOString().slice(0, 10),
        }),
        version,
        revision,
        limits: this.pictures.limits,
      };
    });
  }
}

/** A file that was made. */
export interface MadeFile {
  name: string;
  bytes: Uint8Array;
  /** of a picture that is delivered */
  record: RepairRecord | null;
  /** under which it is noted */
  deliveryId: string | null;
}

/** A document without the repairs that are left out of what is exported. */
const seenOf = (document: PictureDocument, entries: readonly StackEntry[]): PictureDocument => {
  const shown = new Set(entries.filter((e) => e.shown).map((e) => e.repair.id));
  return { ...document, repairs: document.repairs.filter((r) => shown.has(r.id)) };
};

/** What checks object to in each repair, as it will be seen. */
function findingsIn(picture: OpenPicture, job: Pick<Job, 'longSideMm' | 'viewingMm'>): Record<string, Finding[]> {
  const { width, height } = picture.view.box;
  const viewing = { longSideMm: job.longSideMm, distanceMm: job.viewingMm ?? usualDistance(job.longSideMm) };
  const chosen = new Map(picture.document.repairs.map((r) => [r.id, r.chosen]));
  return Object.fromEntries(
    picture.statuses().map((s) => {
      const signs = s.tries[chosen.get(s.id) ?? '']?.signs ?? [];
      return [s.id, findingsOf(signs, Math.max(width, height), viewing)];
    }),
  );
}

/** The repairs of a picture, all as they should be, or, where that is asked for, as they are. @throws Refused */
function complete(picture: OpenPicture, missing: Asked['missing']): StackEntry[] {
  const entries = picture.stack();
  const away = entries.filter((e) => !e.current && e.strength > 0);
  if (away.length && missing === 'refuse') throw refused(picture, away);
  return entries;
}

/** Waits for something that goes on in any case, unless whoever waits is stopped. */
async function orStopped(work: Promise<void>, signal?: AbortSignal): Promise<void> {
  if (!signal) return work;
  let stop = () => undefined as void;
  const stopped = new Promise<never>((_, reject) => {
    stop = () => reject(new Cancelled());
    if (signal.aborted) stop();
    signal.addEventListener('abort', stop, { once: true });
  });
  try {
    await Promise.race([work, stopped]);
  } finally {
    signal.removeEventListener('abort', stop);
  }
}

const numbersOf = ({ document }: OpenPicture, { repair }: StackEntry) =>
  document.faults.filter((f) => repair.faultIds.includes(f.id)).map((f) => f.number);

function nameOf(picture: OpenPicture, entry: StackEntry): string {
  const at = picture.document.repairs.indexOf(entry.repair) + 1;
  const numbers = numbersOf(picture, entry).slice(0, 6);
  return `repair ${String(at).padStart(3, '0')} fault ${numbers.join('+') || 'removed'}`;
}

function refused(picture: OpenPicture, missing: StackEntry[]): Refused {
  const one = missing.length === 1;
  const words = missing.slice(0, NAMED).map((e) => {
    const numbers = numbersOf(picture, e);
    const which = numbers.length ? `fault ${numbers.slice(0, 3).join(', ')}` : 'a repair without a fault';
    const why = picture.failureOf(e.key);
    return why ? `${which} (${why.replace(/\.$/, '')})` : which;
  });
  const more = missing.length > NAMED ? ` and ${missing.length - NAMED} more` : '';
  return new Refused(
    `${one ? '1 repair is' : `${missing.length} repairs are`} not in the picture as it should be: ${words.join('; ')}${more}. Render ${one ? 'it' : 'them'} again or delete ${one ? 'it' : 'them'}, or export without.`,
    409,
  );
}
