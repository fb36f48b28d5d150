import type { Limits } from '../../codec/limits.ts';
import { EXPORTED, type ExportFormat } from '../../contract/exports.ts';
import type { HandOver } from '../../contract/hand-over.ts';
import type { RepairRecord } from '../../contract/record.ts';
import { deliveredOf, extentOf, pictureOf } from '../../core/chain/chain.ts';
import type { StepSpec } from '../../core/chain/registry.ts';
import type { Finding } from '../../core/check/finding.ts';
import type { Patch } from '../../core/raster/patch.ts';
import { fullScale, type Raster } from '../../core/raster/raster.ts';
import { recordOf, type RecordSources } from '../../record/build.ts';
import { attachedTo } from '../../record/flat.ts';
import { pixelsHash, sealed, sha256 } from '../../record/seal.ts';
import type { ExportLayer } from './layers.ts';
import { FORMATS } from './registry.ts';

/** What a file for others is made of. */
export interface ExportInput {
  /** the source as it came */
  file: Uint8Array;
  original: Raster;
  /** what is set of the steps around the repairs, such as the canvas */
  steps: StepSpec[];
  layers: ExportLayer[];
  format: ExportFormat;
  handOver: HandOver;
  /** what its record says, but for what is measured on the pixels */
  sources: Omit<RecordSources, 'rendered' | 'canvas'> & { findings: Record<string, Finding[]> };
  /** how the file is called, without its ending, and the version that it is */
  name: string;
  version: number;
  limits: Limits;
}

/** A file, and, of a picture that is delivered, the record that belongs to it. */
export interface Exported {
  bytes: Uint8Array;
  record: RepairRecord | null;
}

/** The patches that are seen, from the bottom up. */
const shownOf = (layers: readonly ExportLayer[]) =>
  layers
    .filter((layer) => layer.visible)
    .flatMap(({ repairs, opacity }) =>
      repairs.filter((r) => r.visible).map(({ patch, strength }) => ({ patch, strength: strength * opacity })),
    );

/** Pixels of which a patch covers something. */
function coveredBy({ data, channels, depth }: Patch): number {
  let covered = 0;
  const least = fullScale(depth) / 255;
  for (let i = channels - 1; i < data.length; i += channels) if (data[i] >= least) covered++;
  return covered;
}

/** What was done to a picture. */
function recordFor({ sources: { findings, ...sources }, layers }: ExportInput, canvas: RecordSources['canvas']) {
  const rendered = new Map(
    layers.flatMap((l) =>
      l.repairs.map(({ id, patch }) => {
        const { x, y, width, height } = patch;
        return [id, { box: { x, y, width, height }, covered: coveredBy(patch), findings: findings[id] ?? [] }] as const;
      }),
    ),
  );
  return recordOf({ ...sources, canvas, rendered });
}

/** Produces a file for delivery. Pixels that no visible repair covers are the original's, bit for bit (PNG, TIFF). */
export async function exportPicture(input: ExportInput, progress: (done: number) => void): Promise<Exported> {
  const { original, steps, layers, format, handOver, name, version } = input;
  const canvas = extentOf(original, steps);
  const open = recordFor(input, canvas);
  const attach = await attachedTo(input.file, open, handOver.place, input.limits);
  progress(0.2);
  const delivered = deliveredOf(original, steps, shownOf(layers));
  let made: Raster | undefined;
  const merged = () => (made ??= delivered.read(delivered.extent));
  const bytes = await FORMATS[format]({
    original,
    canvas,
    layers,
    merged,
    onCanvas: () => pictureOf(original, steps, shownOf(layers)).read(canvas),
    attach,
    record: open,
    settings: handOver,
    progress,
  });
  const { ending, group } = EXPORTED[format];
  if (group !== 'picture') return { bytes, record: null };
  const { width, height, channels, depth } = merged();
  const record = sealed(open, {
    fileName: `${name}.${ending}`,
    format,
    place: handOver.place,
    quality: handOver.quality,
    webSide: handOver.webSide,
    version,
    width,
    height,
    channels,
    depth,
    pixels: pixelsHash(merged()),
    sha256: sha256(bytes),
  });
  return { bytes, record };
}
