import { ahead } from './kinds/ahead.ts';
import { attention } from './kinds/attention.ts';
import { join } from './kinds/join.ts';
import { lean } from './kinds/lean.ts';
import { changes } from './kinds/changes.ts';
import { check } from './kinds/check.ts';
import { composite } from './kinds/composite.ts';
import { contact, contacts, exportFile, recordPaper, verification } from './kinds/export.ts';
import { open } from './kinds/open.ts';
import { patchView } from './kinds/patch-view.ts';
import { reveal, unpack } from './kinds/patches.ts';
import { advise, pose, propose } from './kinds/propose.ts';
import { gaps, region } from './kinds/region.ts';
import { render } from './kinds/render.ts';
import { sketch } from './kinds/sketch.ts';
import { mesh, trace } from './kinds/strands.ts';
import { mergeFinds, survey } from './kinds/survey.ts';
import { subjectEdge, subjectProposal } from './kinds/subject-edge.ts';
import { tile } from './kinds/tile.ts';
import { way } from './kinds/way.ts';
import type { Work } from './work.ts';

/** Every kind of work that the thread pool does, one line each. */
export const KINDS = {
  open,
  composite,
  tile,
  changes,
  patchView,
  attention,
  lean,
  subjectEdge,
  subjectProposal,
  way,
  render,
  ahead,
  check,
  join,
  sketch,
  survey,
  mergeFinds,
  trace,
  mesh,
  advise,
  propose,
  pose,
  reveal,
  unpack,
  region,
  gaps,
  export: exportFile,
  recordPaper,
  contact,
  contacts,
  verification,
};

export type TaskKind = keyof typeof KINDS;
export type TaskInput<K extends TaskKind> = (typeof KINDS)[K] extends Work<infer Input, infer _> ? Input : never;
export type TaskOutput<K extends TaskKind> = (typeof KINDS)[K] extends Work<infer _, infer Output> ? Output : never;

/** Kinds that must never be cut off; see {@link Work.native}. */
export const NATIVE = (Object.keys(KINDS) as TaskKind[]).filter((k) => 'native' in KINDS[k]);
