import type { ExportInput } from '../images/export.ts';
import type { Facts } from '../../contract/studio.ts';
import type { FaultKind } from '../../core/faults/kinds.ts';
import type { Find } from '../../core/find/find.ts';
import type { TracedStrand } from '../../core/find/strand/strand.ts';
import type { Surveyed, SurveyOptions } from '../../core/find/survey.ts';
import type { StepSpec } from '../../core/chain/registry.ts';
import type { Point, Shape } from '../../core/mask/shapes.ts';
import type { Advice } from '../../core/plan/advice.ts';
import type { Proposal, DonorPolicy } from '../../core/plan/proposal.ts';
import type { PoseOptions, SolvedPose } from '../../core/repair/hand/solve-pose.ts';
import type { Box, Raster } from '../../core/raster/raster.ts';
import type { Piece, Share } from '../../core/repair/method.ts';
import type { Patch, PatchLayer } from '../../core/raster/patch.ts';
import type { Limits } from '../../codec/limits.ts';
import type { GivenLayer } from '../../codec/decoded.ts';

/** What the thread pool can do: input and output of each kind of work. Big arrays travel as shared memory. */
export interface Tasks {
  /** decode a file and measure it; `pyramid` also prepares the view */
  open: {
    input: { path?: string; file?: Uint8Array; fileName: string; limits: Limits };
    output: {
      raster: Raster;
      pyramid: Raster[];
      facts: Facts | null;
      icc: Uint8Array | null;
      layers: GivenLayer[];
    };
  };
  /** read a box of the finished picture into `target`, whose corner is the canvas', and refresh the view of it; px of the base */
  composite: {
    input: {
      original: Raster;
      steps: StepSpec[];
      target: Raster;
      corner: { x: number; y: number };
      pyramid: Raster[];
      box: Box;
      layers: PatchLayer[];
    };
    output: null;
  };
  /** one tile as a picture file for the browser */
  tile: {
    input: { raster: Raster; other?: Raster; box: Box; icc: Uint8Array | null; lossless: boolean };
    output: { bytes: Uint8Array; type: string };
  };
  /** one tile of patches alone on grey; box in pixels of the level */
  changes: {
    input: {
      kind: Pick<Raster, 'channels' | 'depth'>;
      box: Box;
      level: number;
      layers: PatchLayer[];
      icc: Uint8Array | null;
    };
    output: { bytes: Uint8Array; type: string };
  };
  /** a patch in screen colours, as PNG with alpha, for showing a try in place */
  patchView: { input: { patch: Patch; icc: Uint8Array | null }; output: { bytes: Uint8Array } };
  /** render a repair over what lies beneath */
  render: {
    /** spec: as JSON, which crosses to the thread in one piece however many strokes it holds */
    input: {
      original: Raster;
      beneath: PatchLayer[];
      spec: string;
      given: GivenLayer[];
      /** all shares of what was done ahead */
      pieces?: Piece[];
    };
    output: { patch: Patch; packed: Uint8Array; reason: string };
  };
  /** one share of what can be done ahead of a rendering */
  ahead: {
    /** spec: as JSON */
    input: { original: Raster; beneath: PatchLayer[]; spec: string; share: Share };
    output: { pieces: Piece[] };
  };
  /** how a repair will about look, null where that is not worth it */
  sketch: {
    /** spec: as JSON */
    input: { original: Raster; beneath: PatchLayer[]; spec: string };
    output: { patch: Patch | null };
  };
  /** look a picture over with some of the finders */
  survey: {
    input: { raster: Raster; options: Omit<SurveyOptions, 'onProgress'> };
    output: { finds: Surveyed[] };
  };
  /** the finds of several threads as one list */
  mergeFinds: { input: { raster: Raster; finds: Surveyed[] }; output: { finds: Surveyed[] } };
  /** follow a strand through points set on it */
  trace: { input: { raster: Raster; points: Point[] }; output: { strand: TracedStrand } };
  /** find the other strands of a mesh, and clips and knots on them */
  mesh: { input: { raster: Raster; strands: TracedStrand[] }; output: { strands: TracedStrand[]; clips: Find[] } };
  /** what is proposed for marks, from the pixels around each */
  advise: {
    input: { raster: Raster; marks: Array<{ kind: FaultKind; shapes: Shape[] }> };
    output: { advice: Advice[] };
  };
  /** what draws the eye, as a picture file */
  attention: { input: { raster: Raster }; output: { bytes: Uint8Array } };
  /** hide and show parts of a patch */
  reveal: {
    /** marks: as JSON */
    input: { patch: Patch; marks: string };
    output: { patch: Patch };
  };
  /** the base with patches laid on, in a box */
  region: { input: { original: Raster; box: Box; layers: PatchLayer[] }; output: { raster: Raster } };
  /** how many pixels of a box nobody put anything on */
  gaps: { input: { original: Raster; box: Box; layers: PatchLayer[] }; output: { pixels: number } };
  /** what is proposed for a place */
  propose: {
    input: { raster: Raster; kind: FaultKind; shapes: Shape[]; avoid: Shape[]; school: DonorPolicy };
    output: Proposal;
  };
  /** how a lifted piece fits a place best */
  pose: {
    input: { raster: Raster; piece: Shape[]; rough: Point; options: PoseOptions };
    output: SolvedPose;
  };
  unpack: { input: { packed: Uint8Array }; output: { patch: Patch } };
  export: { input: ExportInput; output: { bytes: Uint8Array } };
}

export type TaskKind = keyof Tasks;
export type TaskInput<K extends TaskKind> = Tasks[K]['input'];
export type TaskOutput<K extends TaskKind> = Tasks[K]['output'];

/** Work that decodes and encodes by native threads of its own: it ends at its next step and is never cut off. */
export const NATIVE: ReadonlySet<TaskKind> = new Set([
  'open',
  'export',
  'composite',
  'tile',
  'changes',
  'patchView',
  'attention',
]);

/** Thrown in a worker when its task was cancelled. */
export class Cancelled extends Error {
  constructor() {
    super('Cancelled.');
  }
}
