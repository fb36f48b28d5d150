import { z } from 'zod';
import { FAULT_KINDS } from '../core/faults/kinds.ts';
import { FINDING_KINDS } from '../core/check/finding.ts';
import { FAULT_STATES, repairSpecSchema, revealSchema } from './document.ts';
import { EXPORT_FORMATS } from './exports.ts';
import { wholeBoxSchema } from './shapes.ts';
import { stepSpecSchema } from './steps.ts';
import { frameMarksSchema, POLICIES, PROJECTIONS } from './studio.ts';

/** Version of the repair record's form; documented in docs/record.md. */
export const RECORD_VERSION = 1;

const hash = z.string().regex(/^[0-9a-f]{64}$/);
const when = z.iso.datetime();
const pixels = z.object({
  width: z.number().int().positive(),
  height: z.number().int().positive(),
  channels: z.number().int().min(1).max(4),
  depth: z.union([z.literal(8), z.literal(16)]),
});
const share = z.number().min(0).max(1);

const faultSchema = z.object({
  number: z.number().int().positive(),
  kind: z.enum(FAULT_KINDS),
  state: z.enum(FAULT_STATES),
  place: wholeBoxSchema,
  /** why it was accepted as it is */
  note: z.string().optional(),
});

const recordedRepair = z.object({
  /** from the bottom up, from 1 */
  number: z.number().int().positive(),
  /** number of its layer, from 0 at the bottom */
  layer: z.number().int().min(0),
  /** numbers of the faults that it treats */
  faults: z.array(z.number().int().positive()),
  kinds: z.array(z.enum(FAULT_KINDS)),
  place: wholeBoxSchema,
  /** of the delivered picture's area, % */
  area: z.number().min(0),
  /** what was done, in words */
  words: z.string(),
  donor: z.string(),
  strength: share,
  visible: z.boolean(),
  at: when.nullable(),
  findings: z.array(z.object({ kind: z.enum(FINDING_KINDS), figure: z.number(), unit: z.string(), severity: share })),
  /** what it is replayed from */
  spec: repairSpecSchema,
  hides: revealSchema,
});

/** What an original was joined from: enough to join it again from its frames. */
const joinedSchema = z.object({
  /** in the order in which they were given */
  frames: z.array(z.object({ fileName: z.string(), sha256: hash, used: z.boolean() })).min(2),
  projection: z.enum(PROJECTIONS),
  /** what was wished of each; nothing where left out */
  marks: z.array(frameMarksSchema.nullable()).optional(),
  /** what joined them */
  software: z.string(),
  /** of the way they were joined; absent of earlier ones */
  version: z.number().int().optional(),
  /** root mean square of what matches differ by, px */
  error: z.number().min(0),
});

/** What was done to a picture, and what left the house: enough to do it again from the original and compare. */
export const recordSchema = z.object({
  format: z.literal('tersum-repair-record'),
  version: z.literal(RECORD_VERSION),
  made: when,
  software: z.string(),
  editor: z.string(),
  job: z.object({
    name: z.string(),
    client: z.string(),
    brief: z.string(),
    policy: z.enum(POLICIES),
    changes: z.array(z.object({ at: when, text: z.string() })),
  }),
  original: pixels.extend({
    fileName: z.string(),
    format: z.string(),
    bytes: z.number(),
    sha256: hash,
    ppi: z.number().nullable(),
    profile: z.string().nullable(),
    /** what the original was joined from, where it was */
    joined: joinedSchema.optional(),
  }),
  steps: z.array(stepSpecSchema),
  layers: z.array(z.object({ name: z.string(), opacity: share, visible: z.boolean(), hides: revealSchema })),
  repairs: z.array(recordedRepair),
  faults: z.array(faultSchema),
  minutes: z.number().min(0),
  sourceType: z.string().nullable(),
  disclosure: z.string(),
  delivered: pixels.extend({
    fileName: z.string(),
    format: z.enum(EXPORT_FORMATS),
    /** whether the place where it was taken went along */
    place: z.enum(['keep', 'leave']),
    /** of a JPEG */
    quality: z.number().int().min(1).max(100),
    /** px of the longer side of the size for the web */
    webSide: z.number().int(),
    version: z.number().int().positive(),
    /** of the finished picture's samples, by rows, 16-bit ones little-endian */
    pixels: hash,
    /** of the file */
    sha256: hash,
  }),
  /** SHA-256 of all else, as JSON with sorted keys */
  seal: hash,
});
export type RepairRecord = z.infer<typeof recordSchema>;
export type RecordedRepair = RepairRecord['repairs'][number];
/** A record before the file that it belongs to was made. */
export type OpenRecord = Omit<RepairRecord, 'delivered' | 'seal'>;

/** Whether original, record and delivered file belong together. */
export interface Verification {
  agrees: boolean;
  /** what was looked at, in order, and how it came out */
  steps: Array<{ what: string; agrees: boolean; words: string }>;
  /** the first pixel, by rows, that is not as replayed */
  differs?: { x: number; y: number; pixels: number };
}
