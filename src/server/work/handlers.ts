import { baseOf, beneathOf, pictureOf } from '../../core/chain/chain.ts';
import { findClips } from '../../core/find/strand/clips.ts';
import { completeMesh } from '../../core/find/strand/mesh.ts';
import { traceStrand } from '../../core/find/strand/strand.ts';
import { runFinders, mergeFinds } from '../../core/find/survey.ts';
import { revealPatch, type RevealMark } from '../../core/mask/reveal.ts';
import { propose } from '../../core/plan/proposal.ts';
import { solvePose } from '../../core/repair/hand/solve-pose.ts';
import { adviseCover, surroundingsOf } from '../../core/plan/advice.ts';
import { measureFault } from '../../core/plan/cover.ts';
import { allocatePyramid, refreshPyramid } from '../../core/raster/pyramid.ts';
import { crop, paste, shiftBox } from '../../core/raster/raster.ts';
import { changesOn } from '../../core/raster/patch.ts';
import { renderAhead, renderRepair, sketchRepair } from '../../core/repair/registry.ts';
import type { RepairSpec } from '../../core/repair/spec.ts';
import { decodeFile, factsOf } from '../../codec/decode.ts';
import { exportPicture } from '../images/export.ts';
import { packPatch, sharePatch, unpackPatch } from '../images/pack.ts';
import { screenAttention, screenPatch, screenTile } from '../images/screen.ts';
import type { TaskInput, TaskKind, TaskOutput } from './tasks.ts';

type Handlers = { [K in TaskKind]: (input: TaskInput<K>, progress: (done: number) => void) => Promise<TaskOutput<K>> };

/** One entry a kind of work; see {@link Tasks}. */
export const handlers: Handlers = {
  async open({ path, file, fileName, limits }, progress) {
    progress(0.05);
    const decoded = await decodeFile(path ?? Buffer.from(file!), limits);
    progress(0.6);
    const pyramid = allocatePyramid(decoded.raster);
    const { width, height } = decoded.raster;
    refreshPyramid(decoded.raster, pyramid, { x: 0, y: 0, width, height });
    progress(0.9);
    const facts = path ? factsOf(decoded, path, fileName) : null;
    return { raster: decoded.raster, pyramid, facts, icc: decoded.icc, layers: decoded.layers ?? [] };
  },

  async composite({ original, steps, target, corner, pyramid, box, layers }) {
    const at = shiftBox(box, -corner.x, -corner.y);
    paste(pictureOf(original, steps, layers).read(box), target, at);
    refreshPyramid(target, pyramid, at);
    return null;
  },

  tile: ({ raster, other, box, icc, lossless }) => screenTile(raster, other, box, icc, lossless),

  changes: ({ kind, box, level, layers, icc }) => {
    const tile = changesOn(kind, box, level, layers);
    return screenTile(tile, undefined, { x: 0, y: 0, width: box.width, height: box.height }, icc, true);
  },

  patchView: async ({ patch, icc }) => ({ bytes: await screenPatch(patch, icc) }),

  async render({ original, beneath, spec: text, given, pieces }, progress) {
    const spec = JSON.parse(text) as RepairSpec;
    const below = beneathOf(original, beneath, spec, (index) => given[index]?.patch);
    const { patch, reason } = renderRepair(below, spec, progress, pieces);
    return { patch: sharePatch(patch), packed: packPatch(patch), reason };
  },

  async ahead({ original, beneath, spec: text, share }, progress) {
    const spec = JSON.parse(text) as RepairSpec;
    const pieces = renderAhead(beneathOf(original, beneath, spec), spec, share, progress);
    return { pieces: pieces.map((p) => ({ ...p, raster: sharePatch(p.raster) })) };
  },

  async sketch({ original, beneath, spec: text }) {
    const spec = JSON.parse(text) as RepairSpec;
    const patch = sketchRepair(beneathOf(original, beneath, spec), spec);
    return { patch: patch && sharePatch(patch) };
  },

  async survey({ raster, options }, progress) {
    return { finds: runFinders(raster, { ...options, onProgress: progress }) };
  },

  mergeFinds: async ({ raster, finds }) => ({ finds: mergeFinds(raster, finds) }),

  trace: async ({ raster, points }) => ({ strand: traceStrand(raster, points) }),

  async mesh({ raster, strands }, progress) {
    const all = completeMesh(raster, strands, (done) => progress(0.6 * done));
    return { strands: all, clips: findClips(raster, all, (done) => progress(0.6 + 0.4 * done)) };
  },

  async advise({ raster, marks }) {
    const advice = marks.map(({ kind, shapes }) => {
      const { width } = measureFault(shapes, raster);
      return adviseCover(kind, surroundingsOf(raster, shapes, width));
    });
    return { advice };
  },

  attention: async ({ raster }) => ({ bytes: await screenAttention(raster) }),

  reveal: async ({ patch, marks }) => ({ patch: sharePatch(revealPatch(patch, JSON.parse(marks) as RevealMark[])) }),

  region: async ({ original, box, layers }) => ({ raster: baseOf(original, [], layers).read(box) }),

  gaps: async ({ original, box, layers }) => {
    const gaps = baseOf(original, [], layers).gap(box);
    return { pixels: gaps ? gaps.reduce((sum, v) => sum + v, 0) : 0 };
  },

  propose: async ({ raster, kind, shapes, avoid, school }) => propose(raster, kind, shapes, avoid, school),

  pose: async ({ raster, piece, rough, options }) =>
    solvePose({ width: raster.width, height: raster.height, read: (box) => crop(raster, box) }, piece, rough, options),

  unpack: async ({ packed }) => ({ patch: sharePatch(unpackPatch(packed)) }),

  export: async (input, progress) => ({ bytes: await exportPicture(input, progress) }),
};
