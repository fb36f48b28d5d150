import { z } from 'zod';
import type { DonorAdvice } from '../core/repair/hand/donor-search.ts';
import type { Shape } from '../core/mask/shapes.ts';
import type { Lean } from '../core/frame/level.ts';
import type { Proposal } from '../core/plan/proposal.ts';
import {
  editSchema,
  exportQuerySchema,
  fillRequestSchema,
  pixelsQuerySchema,
  poseRequestSchema,
  proposalRequestSchema,
  workSchema,
  type EditAnswer,
  type PictureChanges,
  type PictureState,
  type PoseAnswer,
  type StepAnswer,
  type WorkLog,
} from './api.ts';
import { idSchema } from './document.ts';
import { answers, type Raw } from './endpoint.ts';
import { sendSchema, type Delivery, type Waiting } from './hand-over.ts';
import type { Verification } from './record.ts';
import { plainName } from './shapes.ts';
import { jobPatchSchema, joinAgainSchema, joinRequestSchema, newJobSchema, type Job } from './studio.ts';
import {
  acceptSchema,
  decisionSchema,
  meshRequestSchema,
  surveyRequestSchema,
  traceRequestSchema,
  treatRequestSchema,
  type SurveyView,
  type TraceAnswer,
} from './survey.ts';
import {
  closeUpSchema,
  keySchema,
  subjectEdgeSchema,
  subjectSchema,
  tileSchema,
  tryViewSchema,
  valuesSchema,
  versionSchema,
  waySchema,
  type Values,
  type WayView,
} from './views.ts';

/** Nothing more is said than that it was done. */
type Done = Record<string, never>;
/** Work that has begun, and goes on. */
interface Begun {
  taskId: string;
}

/** Jobs. */
export const JOBS = {
  list: answers<Job[]>().get('/jobs'),
  create: answers<{ id: string }>().post('/jobs', { body: newJobSchema, status: 201 }),
  change: answers<Done>().patch('/jobs/:id', { body: jobPatchSchema }),
  remove: answers<Done>().delete('/jobs/:id'),
  /** takes a file in, whose bytes are the body; `task` names the task that it is reported under */
  takeIn: answers<{ id: string }>().post('/jobs/:id/pictures', {
    query: z.object({ name: plainName(255), task: idSchema.optional() }),
    status: 201,
  }),
  /** joins pictures of a job to a new one, in the background */
  join: answers<Begun>().post('/jobs/:id/join', { body: joinRequestSchema, status: 202 }),
};

/** A picture's document: reading it, changing it, fills, the time spent. */
export const PICTURES = {
  read: answers<PictureState | PictureChanges>().get('/pictures/:id', {
    /** a mark: only what changed since is answered, where that is known */
    query: z.object({ since: z.string().max(60).optional() }),
  }),
  remove: answers<Done>().delete('/pictures/:id'),
  edit: answers<EditAnswer>().post('/pictures/:id/edits', { body: editSchema }),
  undo: answers<StepAnswer>().post('/pictures/:id/undo'),
  redo: answers<StepAnswer>().post('/pictures/:id/redo'),
  fill: answers<Begun & { repairId: string }>().post('/pictures/:id/fills', { body: fillRequestSchema, status: 202 }),
  treat: answers<Begun & { repairs: number }>().post('/pictures/:id/treat', { body: treatRequestSchema, status: 202 }),
  /** joins its frames again, with a place taken from one of them, to another picture */
  joinAgain: answers<Begun>().post('/pictures/:id/join-again', { body: joinAgainSchema, status: 202 }),
  trace: answers<{ strand: TraceAnswer; changes: EditAnswer }>().post('/pictures/:id/trace', {
    body: traceRequestSchema,
  }),
  mesh: answers<Begun>().post('/pictures/:id/mesh', { body: meshRequestSchema, status: 202 }),
  /** renders again what could not be rendered */
  renderAgain: answers<Done>().post('/pictures/:id/renderings', { status: 202 }),
  /** holds repairs that sample what has changed back until they are asked for */
  hold: answers<Done>().post('/pictures/:id/updates', { body: z.object({ held: z.boolean() }) }),
  /** what it is about, outlined: the same for survey, bench and frame; null where nobody has said */
  subject: answers<Shape[] | null>().get('/pictures/:id/subject'),
  setSubject: answers<Done>().post('/pictures/:id/subject', { body: subjectSchema }),
  work: answers<WorkLog>().get('/pictures/:id/work'),
  logWork: answers<WorkLog>().post('/pictures/:id/work', { body: workSchema }),
};

/** A picture's survey. */
export const SURVEYS = {
  start: answers<Begun>().post('/pictures/:id/survey', { body: surveyRequestSchema, status: 202 }),
  read: answers<SurveyView | null>().get('/pictures/:id/survey'),
  decide: answers<Done>().post('/pictures/:id/survey/decisions', { body: decisionSchema }),
  accept: answers<Pick<SurveyView, 'taken'>>().post('/pictures/:id/survey/accept', { body: acceptSchema }),
};

/** What people see of a picture, and what is asked of its pixels. */
export const VIEWS = {
  tile: answers<Raw>().get('/pictures/:id/tiles/:view/:version/:level/:x/:y', { params: tileSchema }),
  closeUp: answers<Raw>().get('/pictures/:id/close-up', { query: closeUpSchema }),
  tryCloseUp: answers<Raw>().get('/pictures/:id/renderings/:key/close-up', { params: keySchema, query: tryViewSchema }),
  rendering: answers<Raw>().get('/pictures/:id/renderings/:key', { params: keySchema }),
  /** samples of one pixel; null where the canvas has none */
  values: answers<Values | null>().get('/pictures/:id/values', { query: valuesSchema }),
  attention: answers<Raw>().get('/pictures/:id/attention', { query: z.object({ v: versionSchema }) }),
  /** how far the picture leans, from its own long lines; null where there is nothing to go by */
  lean: answers<Lean | null>().get('/pictures/:id/lean', { query: z.object({ v: versionSchema }) }),
  /** how a way to a canvas would look, reduced */
  way: answers<WayView>().post('/pictures/:id/way', { body: waySchema }),
  /** what the picture is likely to be about, outlined; null where nothing plainly stands out */
  subjectProposal: answers<Shape[] | null>().get('/pictures/:id/subject-proposal', {
    query: z.object({ v: versionSchema }),
  }),
  /** the true outline of a subject that was roughly marked */
  subjectEdge: answers<Shape[]>().post('/pictures/:id/subject-edge', { body: subjectEdgeSchema }),
  /** bare samples, interleaved, 16-bit ones little-endian: what a stroke's preview computes with */
  pixels: answers<Raw>().get('/pictures/:id/pixels', { query: pixelsQuerySchema }),
  proposal: answers<Proposal & { donors: DonorAdvice[] }>().post('/pictures/:id/proposal', {
    body: proposalRequestSchema,
  }),
  pose: answers<PoseAnswer>().post('/pictures/:id/pose', { body: poseRequestSchema }),
};

/** Files for delivery. */
export const EXPORTS = {
  /** waits for all renderings; refuses with what is missing, so that a window can say so before it saves a file */
  ready: answers<{ repairs: number }>().get('/pictures/:id/export/ready', {
    query: exportQuerySchema.pick({ missing: true }),
  }),
  file: answers<Raw>().get('/pictures/:id/export', { query: exportQuerySchema }),
  /** what left of a picture, the newest first */
  list: answers<Delivery[]>().get('/pictures/:id/deliveries'),
  /** the repair record of a file that left */
  record: answers<Raw>().get('/deliveries/:id/record', {
    query: z.object({ form: z.enum(['json', 'csv', 'pdf']).default('json') }),
  }),
  /** compares a file, whose bytes are the body, with what its record says; `task` names the task that it is reported under */
  verify: answers<Verification>().post('/deliveries/:id/verify', {
    query: z.object({ task: idSchema.optional() }),
  }),
  /** all pictures of a job in one zip file */
  job: answers<Raw>().get('/jobs/:id/export', { query: sendSchema.pick({ format: true }) }),
  contacts: answers<Raw>().get('/jobs/:id/contact-sheet'),
};

/** A client's letterbox. */
export const LETTERBOX = {
  waiting: answers<Waiting[]>().get('/jobs/:id/letterbox'),
  send: answers<Begun>().post('/jobs/:id/letterbox', { body: sendSchema, status: 202 }),
  take: answers<{ id: string }>().post('/jobs/:id/letterbox/take', {
    body: z.object({ name: z.string().min(1).max(255) }),
    status: 201,
  }),
};

/** Long work: stopping it, and hearing of it and of all else that happens. */
export const TASKS = {
  stop: answers<{ cancelled: boolean }>().delete('/tasks/:id'),
  events: answers<Raw>().get('/events'),
};
