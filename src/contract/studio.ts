import { z } from 'zod';
import type { JoinAccount } from '../core/join/account.ts';
import type { FrameMarks } from '../core/join/lay.ts';
import { handOverSchema, type HandOver } from './hand-over.ts';
import { idSchema } from './document.ts';
import { plainLine, plainName, plainText, shapesSchema, wholeBoxSchema } from './shapes.ts';

/** What is measured on a file when it comes in. */
export const factsSchema = z.object({
  fileName: z.string(),
  format: z.string(),
  bytes: z.number(),
  width: z.number(),
  height: z.number(),
  channels: z.number(),
  depth: z.union([z.literal(8), z.literal(16)]),
  mode: z.string(),
  /** pixels an inch across; null where the file names none */
  ppi: z.number().nullable(),
  /** the same downwards, where it is another */
  ppiDown: z.number().nullable().optional(),
  profile: z.string().nullable(),
  jpegQuality: z.number().nullable(),
  /** whether the file names the place where it was taken; absent in studios from before this was looked for */
  place: z.boolean().optional(),
  clippedDark: z.number(),
  clippedLight: z.number(),
});
export type Facts = z.infer<typeof factsSchema>;

export const POLICIES = ['documentary', 'restoration', 'creative'] as const;

const jobFields = z.object({
  name: plainName(120, 'Give the job a name.'),
  client: plainLine(120),
  brief: plainText(4000),
  policy: z.enum(POLICIES),
  longSideMm: z.number().min(10).max(20_000),
  /** from where it is looked at; null: the usual distance for its size */
  viewingMm: z.number().min(50).max(1_000_000).nullable(),
  /** who leads: the editor chooses donors, or the software searches them */
  donors: z.enum(['choose', 'search']),
});

export const newJobSchema = jobFields.extend({
  client: jobFields.shape.client.default(''),
  brief: jobFields.shape.brief.default(''),
  policy: jobFields.shape.policy.default('creative'),
  longSideMm: jobFields.shape.longSideMm.default(300),
  viewingMm: jobFields.shape.viewingMm.default(null),
  donors: jobFields.shape.donors.default('search'),
});
export type NewJob = z.infer<typeof newJobSchema>;

/** Changes to a job. What is left out stays as it is, so nothing here has a usual value. */
export const jobPatchSchema = jobFields
  .partial()
  .extend({ delivered: z.boolean().optional(), handOver: handOverSchema.optional() });

/** How frames are laid onto a canvas. */
export const PROJECTIONS = ['auto', 'flat', 'cylinder'] as const;
/** Frames that can be joined at once. */
export const MOST_FRAMES = 12;

/** What is wished of a frame, px of the frame: what it shows and no other does, and what another shows. */
export const frameMarksSchema = z.object({ keep: shapesSchema.max(100), leave: shapesSchema.max(100) });

/** Pictures of a job that are joined to a new one; in any order. */
export const joinRequestSchema = z.object({
  pictureIds: z
    .array(idSchema)
    .min(2, 'Choose at least two pictures to join.')
    .max(MOST_FRAMES, `At most ${MOST_FRAMES} pictures can be joined at once.`)
    .refine((ids) => new Set(ids).size === ids.length, 'A picture can only be joined to others.'),
  projection: z.enum(PROJECTIONS).default('auto'),
  /** what is wished of each, in their order */
  marks: z.array(frameMarksSchema.nullable()).max(MOST_FRAMES).optional(),
});

/** Frames of a joined picture joined again, with something wished of one of them. */
export const joinAgainSchema = z.object({
  frame: z
    .number()
    .int()
    .min(0)
    .max(MOST_FRAMES - 1),
  keep: wholeBoxSchema,
});
export type JoinRequest = z.infer<typeof joinRequestSchema>;

/** What a picture was joined from: its frames as they came, which are kept, and what is needed to do it again. */
export interface JoinedFrom {
  frames: Array<{ name: string; hash: string }>;
  projection: JoinRequest['projection'];
  /** what was wished of them; nothing where left out */
  marks?: Array<FrameMarks | null>;
  software: string;
  /** of the way they were joined; absent of earlier ones */
  version?: number;
  account: JoinAccount;
}

export interface PictureRow {
  id: string;
  jobId: string;
  name: string;
  facts: Facts;
  revision: number;
  /** what it was joined from; absent for a picture that came as one file */
  joined?: JoinedFrom;
}

export interface Job extends NewJob {
  id: string;
  createdAt: number;
  deliveredAt: number | null;
  /** new: nothing done yet; in work: repairs exist; delivered */
  state: 'new' | 'in work' | 'delivered';
  /** how its files leave the house; null: as usual */
  handOver: HandOver | null;
  /** what was decided about the job, the newest first */
  record: Array<{ at: number; text: string }>;
  pictures: Array<PictureRow & { openFaults: number; treatedFaults: number }>;
}
