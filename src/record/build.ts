import type { PictureDocument, Repair } from '../contract/document.ts';
import type { HandOver, SourceType } from '../contract/hand-over.ts';
import { sourceTypeUri } from '../contract/hand-over.ts';
import { RECORD_VERSION, type OpenRecord, type RecordedRepair } from '../contract/record.ts';
import type { Facts, Job, JoinedFrom } from '../contract/studio.ts';
import type { Finding } from '../core/check/finding.ts';
import { kindFacts } from '../core/faults/kinds.ts';
import { boundsOfAll } from '../core/mask/shapes.ts';
import type { Box } from '../core/raster/raster.ts';
import type { RepairSpec } from '../core/repair/spec.ts';
import { specsOf } from '../document/canvas.ts';
import { isStrip } from '../document/edits/repairs.ts';
import { disclosureOf, donorWords, methodWords } from './words.ts';

/** What a record is put together from. */
export interface RecordSources {
  software: string;
  now: number;
  job: Pick<Job, 'name' | 'client' | 'brief' | 'policy' | 'record'>;
  handOver: HandOver;
  facts: Facts;
  /** SHA-256 of the original file */
  original: string;
  /** what the original was joined from, where it was */
  joined?: JoinedFrom | null;
  document: PictureDocument;
  /** the delivered picture's box, px of the original */
  canvas: Box;
  /** of each repair that is rendered: its place, covered px, findings */
  rendered: ReadonlyMap<string, { box: Box; covered: number; findings: readonly Finding[] }>;
  /** when each repair was made */
  times: ReadonlyMap<string, number>;
  minutes: number;
}

const iso = (at: number) => new Date(at).toISOString();
const chosenOf = (repair: Repair): RepairSpec => repair.tries.find((t) => t.id === repair.chosen)!.spec;
/** A place in whole px. */
const placeOf = ({ x, y, width, height }: Box): Box => {
  const [left, top] = [Math.floor(x), Math.floor(y)];
  return { x: left, y: top, width: Math.ceil(x + width) - left, height: Math.ceil(y + height) - top };
};

/** What of a document is seen in the finished picture: repairs of some strength on layers of some opacity. */
export const seenRepairs = ({ layers, repairs }: PictureDocument): Repair[] =>
  layers.flatMap((l) =>
    l.visible && l.opacity > 0 ? repairs.filter((r) => r.layerId === l.id && r.visible && r.strength > 0) : [],
  );

/**
 * What the repairs of a document do to what it shows, and so which source type fits; null where nothing was done.
 * @param joined whether it was joined from several frames
 */
export function fittingSourceType(document: PictureDocument, joined = false): SourceType | null {
  if (joined) return 'compositeCapture';
  const seen = seenRepairs(document);
  if (!seen.length) return null;
  const byItself = seen.every((r) => ['fill', 'lift'].includes(chosenOf(r).method));
  const scene = treatedBy(document).some((f) => kindFacts(f.kind).changesScene);
  return byItself && !scene ? 'algorithmicallyEnhanced' : 'humanEdits';
}

/** The faults whose repairs are seen. */
export function treatedBy(document: PictureDocument) {
  const ids = new Set(seenRepairs(document).flatMap((r) => r.faultIds));
  return document.faults.filter((f) => ids.has(f.id));
}

function recordedRepairs({ document, canvas, rendered, times }: RecordSources): RecordedRepair[] {
  const numbers = new Map(document.faults.map((f) => [f.id, f]));
  const area = canvas.width * canvas.height;
  const inOrder = document.layers.flatMap((layer, n) =>
    document.repairs.filter((r) => r.layerId === layer.id).map((repair) => ({ repair, layer: n })),
  );
  return inOrder.map(({ repair, layer }, n) => {
    const spec = chosenOf(repair);
    const own = repair.faultIds.flatMap((id) => numbers.get(id) ?? []);
    const made = rendered.get(repair.id);
    const at = times.get(repair.id);
    return {
      number: n + 1,
      layer,
      faults: own.map((f) => f.number),
      kinds: own.map((f) => f.kind),
      place: made ? placeOf(made.box) : { x: 0, y: 0, width: 0, height: 0 },
      area: Number(((100 * (made?.covered ?? 0)) / area).toPrecision(4)),
      words: methodWords(spec),
      donor: donorWords(spec),
      strength: repair.strength,
      visible: repair.visible,
      at: at === undefined ? null : iso(at),
      findings: (made?.findings ?? []).map(({ kind, figure, unit, severity }) => ({ kind, figure, unit, severity })),
      spec,
      hides: repair.reveal ?? [],
    };
  });
}

/** The frames that went into a joined picture, by name. */
export const framesUsed = ({ frames, account }: JoinedFrom): string[] =>
  frames.filter((_, n) => !account.left.includes(n)).map((f) => f.name);

/** The sentence that says what was done, as it is put together where the editor wrote none. */
export const sentenceFor = (document: PictureDocument, joined?: JoinedFrom | null): string =>
  disclosureOf(
    treatedBy(document),
    joined ? framesUsed(joined).length : 0,
    seenRepairs(document).filter(isStrip).length,
  );

function joinedWords({ frames, account, projection, marks, software, version }: JoinedFrom) {
  const named = frames.map(({ name, hash }, n) => ({
    fileName: name,
    sha256: hash,
    used: !account.left.includes(n),
  }));
  return {
    frames: named,
    projection,
    ...(marks && { marks }),
    software,
    ...(version && { version }),
    error: account.error,
  };
}

/** Puts together what was done to a picture, all but what concerns the file that leaves. */
export function recordOf(sources: RecordSources): OpenRecord {
  const { software, now, job, handOver, facts, document, minutes, joined } = sources;
  const type = handOver.sourceType === 'fitting' ? fittingSourceType(document, Boolean(joined)) : handOver.sourceType;
  return {
    format: 'tersum-repair-record',
    version: RECORD_VERSION,
    made: iso(now),
    software,
    editor: handOver.editor,
    job: {
      name: job.name,
      client: job.client,
      brief: job.brief,
      policy: job.policy,
      changes: job.record.map(({ at, text }) => ({ at: iso(at), text })),
    },
    original: {
      fileName: facts.fileName,
      format: facts.format,
      bytes: facts.bytes,
      sha256: sources.original,
      width: facts.width,
      height: facts.height,
      channels: facts.channels,
      depth: facts.depth,
      ppi: facts.ppi,
      profile: facts.profile,
      ...(joined && { joined: joinedWords(joined) }),
    },
    steps: specsOf(document),
    layers: document.layers.map(({ name, opacity, visible, reveal = [] }) => ({
      name,
      opacity,
      visible,
      hides: reveal,
    })),
    repairs: recordedRepairs(sources),
    faults: document.faults.map(({ number, kind, state, shapes, note }) => ({
      number,
      kind,
      state,
      place: placeOf(boundsOfAll(shapes)),
      ...(note && { note }),
    })),
    minutes: Math.round(10 * minutes) / 10,
    sourceType: type && type !== 'none' ? sourceTypeUri(type) : null,
    disclosure: handOver.disclosure ?? sentenceFor(document, joined),
  };
}
