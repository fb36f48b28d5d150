import type { Sign } from '../../core/check/finding.ts';
import type { Shape } from '../../core/mask/shapes.ts';
import type { Box } from '../../core/raster/raster.ts';
import { blob, index, integer, primaryKey, real, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';
import type { Change, Fault, Layer, Repair, Step } from '../../contract/document.ts';
import type { SurveyFind, SurveyRequest } from '../../contract/survey.ts';
import type { HandOver } from '../../contract/hand-over.ts';
import type { Facts, JoinedFrom } from '../../contract/studio.ts';

export const jobs = sqliteTable('job', {
  id: text().primaryKey(),
  name: text().notNull(),
  client: text().notNull().default(''),
  brief: text().notNull().default(''),
  policy: text({ enum: ['documentary', 'restoration', 'creative'] }).notNull(),
  longSideMm: real('long_side_mm').notNull(),
  viewingMm: real('viewing_mm'),
  donors: text({ enum: ['choose', 'search'] })
    .notNull()
    .default('search'),
  createdAt: integer('created_at').notNull(),
  deliveredAt: integer('delivered_at'),
  /** how its files leave the house; null: as usual */
  handOver: text('hand_over', { mode: 'json' }).$type<HandOver>(),
});

/** What was decided about a job, such as what may be changed in it. */
export const jobRecord = sqliteTable(
  'job_record',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id, { onDelete: 'cascade' }),
    text: text().notNull(),
    at: integer().notNull(),
  },
  (t) => [index('job_record_job').on(t.jobId)],
);

export const pictures = sqliteTable(
  'picture',
  {
    id: text().primaryKey(),
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    facts: text({ mode: 'json' }).$type<Facts>().notNull(),
    /** the file as it came, never written again */
    original: text()
      .notNull()
      .references(() => blobs.hash),
    revision: integer().notNull().default(0),
    /** number of edits in force; those after it can be redone */
    cursor: integer().notNull().default(0),
    createdAt: integer('created_at').notNull(),
    /** what it was joined from; null for what came as one file */
    joined: text({ mode: 'json' }).$type<JoinedFrom>(),
    /** what it is about, outlined; null where that was not said */
    subject: text({ mode: 'json' }).$type<Shape[]>(),
  },
  (t) => [index('picture_job').on(t.jobId), index('picture_original').on(t.original)],
);

/** Files that a picture was joined from, which are kept as long as it is. */
export const frames = sqliteTable(
  'frame',
  {
    pictureId: text('picture_id')
      .notNull()
      .references(() => pictures.id, { onDelete: 'cascade' }),
    position: integer().notNull(),
    file: text()
      .notNull()
      .references(() => blobs.hash),
  },
  (t) => [primaryKey({ columns: [t.pictureId, t.position] }), index('frame_file').on(t.file)],
);

const row = <T>() => ({
  id: text().primaryKey(),
  pictureId: text('picture_id')
    .notNull()
    .references(() => pictures.id, { onDelete: 'cascade' }),
  doc: text({ mode: 'json' }).$type<T>().notNull(),
});

export const faults = sqliteTable('fault', row<Fault>(), (t) => [index('fault_picture').on(t.pictureId)]);
export const layers = sqliteTable('layer', row<Layer>(), (t) => [index('layer_picture').on(t.pictureId)]);
export const repairs = sqliteTable('repair', row<Repair>(), (t) => [index('repair_picture').on(t.pictureId)]);
export const steps = sqliteTable('step', row<Step>(), (t) => [index('step_picture').on(t.pictureId)]);

/**
 * Elements of long lists of rows (strokes, shapes, marks), one each, so that an edit writes what it adds and not the whole list.
 * The row's own document holds null in their place.
 */
export const items = sqliteTable(
  'item',
  {
    pictureId: text('picture_id')
      .notNull()
      .references(() => pictures.id, { onDelete: 'cascade' }),
    rowId: text('row_id').notNull(),
    list: text().notNull(),
    position: integer().notNull(),
    /** JSON, deflated */
    doc: blob({ mode: 'buffer' }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.rowId, t.list, t.position] }), index('item_picture').on(t.pictureId)],
);

/** The journal: what each edit changed, in order. */
export const edits = sqliteTable(
  'edit',
  {
    pictureId: text('picture_id')
      .notNull()
      .references(() => pictures.id, { onDelete: 'cascade' }),
    number: integer().notNull(),
    label: text().notNull(),
    /** rows before and after, as studios before the operations kept them; empty since */
    changes: text({ mode: 'json' }).$type<Change[]>().notNull(),
    /** the edit's operations as JSON, deflated */
    operations: blob({ mode: 'buffer' }),
    at: integer().notNull(),
  },
  (t) => [primaryKey({ columns: [t.pictureId, t.number] })],
);

/** Answered requests by name, so that one that comes again is not done again, also after a restart. */
export const requests = sqliteTable(
  'request',
  {
    pictureId: text('picture_id')
      .notNull()
      .references(() => pictures.id, { onDelete: 'cascade' }),
    route: text().notNull(),
    name: text().notNull(),
    /** SHA-256 of what was asked */
    digest: text().notNull(),
    answer: text({ mode: 'json' }).$type<unknown>(),
    at: integer().notNull(),
  },
  (t) => [primaryKey({ columns: [t.pictureId, t.route, t.name] }), index('request_at').on(t.at)],
);

/** Pixels and files by the SHA-256 of their contents. */
export const blobs = sqliteTable('blob', {
  hash: text().primaryKey(),
  /** -1 while its parts are still being written */
  bytes: integer().notNull(),
});

export const blobParts = sqliteTable(
  'blob_part',
  {
    hash: text()
      .notNull()
      .references(() => blobs.hash, { onDelete: 'cascade' }),
    part: integer().notNull(),
    data: blob({ mode: 'buffer' }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.hash, t.part] })],
);

/** What rendering a try over given pixels beneath gave. The key names both. */
export const renders = sqliteTable(
  'render',
  {
    pictureId: text('picture_id')
      .notNull()
      .references(() => pictures.id, { onDelete: 'cascade' }),
    key: text().notNull(),
    tryId: text('try_id').notNull(),
    patch: text()
      .notNull()
      .references(() => blobs.hash),
    box: text({ mode: 'json' }).$type<Box>().notNull(),
    reason: text().notNull(),
    /** what checks object to; null until it was checked */
    signs: text({ mode: 'json' }).$type<Sign[]>(),
    at: integer().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.pictureId, t.key] }),
    index('render_try').on(t.tryId),
    index('render_patch').on(t.patch),
  ],
);

/** A picture's last survey: what was found, and what was rejected of it. */
export const surveys = sqliteTable('survey', {
  pictureId: text('picture_id')
    .primaryKey()
    .references(() => pictures.id, { onDelete: 'cascade' }),
  request: text({ mode: 'json' }).$type<SurveyRequest>().notNull(),
  finds: text({ mode: 'json' }).$type<SurveyFind[]>().notNull(),
  at: integer().notNull(),
});

/** Files that left, each with its repair record. */
export const deliveries = sqliteTable(
  'delivery',
  {
    id: text().primaryKey(),
    pictureId: text('picture_id')
      .notNull()
      .references(() => pictures.id, { onDelete: 'cascade' }),
    /** counts up with what is delivered, not with files */
    version: integer().notNull(),
    /** of the picture, at that time */
    revision: integer().notNull(),
    format: text().notNull(),
    fileName: text('file_name').notNull(),
    bytes: integer().notNull(),
    /** SHA-256 of the file */
    hash: text().notNull(),
    sent: integer({ mode: 'boolean' }).notNull().default(false),
    /** the repair record as JSON, deflated */
    record: blob({ mode: 'buffer' }).notNull(),
    at: integer().notNull(),
  },
  (t) => [index('delivery_picture').on(t.pictureId)],
);

/** Minutes at work, one row a fault that was finished. */
export const workLog = sqliteTable('work_log', {
  id: integer().primaryKey({ autoIncrement: true }),
  pictureId: text('picture_id')
    .notNull()
    .references(() => pictures.id, { onDelete: 'cascade' }),
  kind: text().notNull(),
  seconds: real().notNull(),
  at: integer().notNull(),
});

/** What the server keeps for itself, such as the secret its sessions are signed with. */
export const settings = sqliteTable('setting', { name: text().notNull(), value: text().notNull() }, (t) => [
  uniqueIndex('setting_name').on(t.name),
]);

/** How the editor last changed, in a job, what was proposed for a kind of fault. */
export const habits = sqliteTable(
  'job_habit',
  {
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id, { onDelete: 'cascade' }),
    kind: text().notNull(),
    margin: real().notNull().default(0),
    feather: real().notNull().default(0),
    strength: real(),
  },
  (t) => [primaryKey({ columns: [t.jobId, t.kind] })],
);
