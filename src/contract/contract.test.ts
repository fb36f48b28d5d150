import type { ZodType } from 'zod';
import { exportQuerySchema, fillRequestSchema, pixelsQuerySchema, poseRequestSchema, workSchema } from './api.ts';
import { faultSchema, layerSchema, repairSchema, repairSpecSchema, revealSchema, strokeSchema } from './document.ts';
import { shapeSchema, shapesSchema } from './shapes.ts';
import { factsSchema, jobPatchSchema, newJobSchema } from './studio.ts';
import { acceptSchema, findSchema, meshRequestSchema, surveyRequestSchema, traceRequestSchema } from './survey.ts';

const id = 'a1b2c3d4e5';
const brush = { op: 'add', kind: 'brush', points: [[5, 5]], size: 9 };
const stroke = { points: [[5, 5, 1]], size: 9, hardness: 0.5, flow: 1, opacity: 1, spacing: 0.2, pressure: 'none' };
const donor = { from: [1, 1], at: [9, 9], turn: 0, scale: 1, mirror: 'none', travels: true };
const fault = { id, number: 3, kind: 'speck', shapes: [brush], margin: 2, feather: 0, state: 'open' };
const fill = {
  method: 'fill',
  cover: [brush],
  margin: 1,
  feather: 0,
  donorArea: [],
  barred: [],
  avoid: [],
  seed: 7,
  style: 'auto',
  tone: 'gentle',
  turn: false,
  scale: false,
  mirror: false,
};
const repair = {
  id,
  layerId: id,
  order: 1,
  faultIds: [id],
  tries: [{ id, spec: fill }],
  chosen: id,
  strength: 1,
  visible: true,
};
const find = {
  id: 'f1',
  finder: 'specks',
  kind: 'speck',
  score: 0.9,
  shapes: [brush],
  box: { x: 1, y: 1, width: 9, height: 9 },
  width: 9,
  length: 9,
  contrast: -30,
};

/** Something valid, and how each of its values can be wrong. */
const CASES: Array<[string, ZodType, Record<string, unknown>, Record<string, unknown[]>]> = [
  [
    'a shape',
    shapeSchema,
    brush,
    {
      op: ['paint', undefined],
      kind: ['circle'],
      points: [[], [[1]], [[1, 2, 3]], [[1, Infinity]], [['1', 2]], [[1, 900_000]]],
      size: [0, -1, 1e9, NaN],
    },
  ],
  [
    'a stroke',
    strokeSchema,
    stroke,
    {
      points: [[], [[5, 5]], [[5, 5, 1.5]]],
      size: [0],
      hardness: [-0.1, 1.1],
      flow: [0],
      opacity: [2],
      spacing: [0, 9],
      pressure: ['tilt'],
    },
  ],
  [
    'a fault',
    faultSchema,
    fault,
    {
      id: ['short', 'UPPERCASE1', '../../etc/x', 'x'.repeat(80)],
      number: [0, 1.5, -2],
      kind: ['ghost'],
      margin: [-1, 500],
      feather: [-1],
      state: ['gone'],
      found: ['x'.repeat(40)],
      line: [
        { points: [[1, 1]], width: 3, blur: 0 },
        {
          points: [
            [1, 1],
            [2, 2],
          ],
          width: 0,
          blur: 0,
        },
      ],
    },
  ],
  [
    'a layer',
    layerSchema,
    { id, name: 'Dust', order: 1, opacity: 1, visible: true },
    {
      name: ['', '   ', 'x'.repeat(200)],
      opacity: [-0.1, 1.01],
      order: [NaN],
      visible: ['yes'],
      reveal: [[{ op: 'hide' }]],
    },
  ],
  [
    'a repair',
    repairSchema,
    repair,
    { tries: [[], [{ id, spec: { method: 'magic' } }]], strength: [2], faultIds: [['x']], chosen: [7], visible: [1] },
  ],
  [
    'a fill',
    repairSpecSchema,
    fill,
    {
      seed: [-1, 1.5, 2 ** 31],
      style: ['best'],
      tone: ['much'],
      turn: ['no'],
      margin: [-1, 900],
      cover: [[{ ...brush, size: 0 }]],
    },
  ],
  [
    'a copy',
    repairSpecSchema,
    { method: 'copy', strokes: [stroke], donor },
    {
      strokes: [[{ ...stroke, size: 0 }]],
      donor: [
        null,
        { ...donor, scale: 9 },
        { ...donor, mirror: 'both' },
        { ...donor, turn: 1000 },
        { ...donor, at: [1] },
      ],
    },
  ],
  [
    'a transplant',
    repairSpecSchema,
    {
      method: 'transplant',
      piece: [brush],
      feather: 2,
      blended: true,
      donor,
      bend: Array.from({ length: 9 }, () => [0, 0]),
    },
    { piece: [[]], bend: [[], [[0, 0]]], feather: [-1], blended: [1] },
  ],
  [
    'a shade',
    repairSpecSchema,
    { method: 'shade', strokes: [stroke], effect: 'tone', stops: 0.5, range: 'all', seed: 1 },
    { effect: ['sharpen'], stops: [4, -4], range: ['reds'], seed: [0.5] },
  ],
  [
    'a new job',
    newJobSchema,
    { name: 'Print' },
    {
      name: ['', '  '],
      policy: ['none'],
      longSideMm: [0, 1e6],
      viewingMm: [1],
      donors: ['guess'],
      brief: ['x'.repeat(5000)],
    },
  ],
  [
    'a trace',
    traceRequestSchema,
    {
      points: [
        [1, 1],
        [9, 9],
      ],
    },
    {
      points: [
        [[1, 1]],
        [
          [1, 1],
          [NaN, 2],
        ],
        Array.from({ length: 201 }, () => [1, 1]),
      ],
    },
  ],
  [
    'a mesh',
    meshRequestSchema,
    { faultIds: [id, `${id}1`] },
    { faultIds: [[id], ['x', 'y'], Array.from({ length: 21 }, () => id)] },
  ],
  ['a find', findSchema, find, { finder: ['ghosts'], kind: ['ghost'], score: ['high'], box: [{ x: 1 }] }],
  ['finds taken', acceptSchema, { ids: ['f1'] }, { ids: [[], Array.from({ length: 2_001 }, () => 'f')] }],
  ['logged work', workSchema, { kind: 'speck', seconds: 12 }, { kind: ['tea'], seconds: [-1, 1e9] }],
  [
    'a pose',
    poseRequestSchema,
    { piece: [brush], rough: [4, 4] },
    { piece: [[]], rough: [[1]], reach: [0, 9e9], turn: [-1, 200], scale: [0.5, 9] },
  ],
];

describe.each(CASES)('%s', (_, schema, valid, wrong) => {
  test('is taken as it should be', () => {
    expect(schema.safeParse(valid).success).toBe(true);
  });

  test.each(Object.entries(wrong).flatMap(([key, values]) => values.map((v) => [key, v] as const)))(
    'is refused with %s: %j',
    (key, value) => {
      const { success, error } = schema.safeParse({ ...valid, [key]: value });
      expect(success).toBe(false);
      // What is wrong is named.
      expect(error!.issues.some((issue) => issue.path[0] === key)).toBe(true);
    },
  );

  test('is refused when it is nothing, a word, or a list', () => {
    for (const value of [null, undefined, 'x', 3, []]) expect(schema.safeParse(value).success).toBe(false);
  });
});

describe('what is left out', () => {
  test('gets its usual value', () => {
    expect(newJobSchema.parse({ name: ' Print ' })).toEqual({
      name: 'Print',
      client: '',
      brief: '',
      policy: 'creative',
      longSideMm: 300,
      viewingMm: null,
      donors: 'search',
    });
    expect(fillRequestSchema.parse({ faultIds: [id] })).toEqual({
      faultIds: [id],
      layerId: null,
      repairId: null,
      donorArea: [],
      barred: [],
      settings: {},
      portions: 1,
    });
    expect(surveyRequestSchema.parse({})).toEqual({ backdrop: [], subject: [] });
    expect(findSchema.parse(find)).toMatchObject({ rejected: false, difference: 0 });
  });

  test('of a change to a job changes nothing', () => {
    expect(Object.keys(jobPatchSchema.parse({ delivered: true })).filter((k) => k !== 'delivered')).toEqual([]);
  });
});

test('lists have an end', () => {
  expect(shapesSchema.safeParse(Array.from({ length: 2_001 }, () => brush)).success).toBe(false);
  const mark = { op: 'hide', kind: 'area', shapes: [brush], feather: 1 };
  expect(revealSchema.safeParse(Array.from({ length: 2_001 }, () => mark)).success).toBe(false);
  expect(revealSchema.safeParse([mark, { op: 'show', kind: 'stroke', stroke }]).success).toBe(true);
});

test('queries are read from words', () => {
  expect(exportQuerySchema.safeParse({ format: 'gif' }).success).toBe(false);
  expect(exportQuerySchema.parse({ format: 'jpeg' })).toEqual({ format: 'jpeg', missing: 'refuse' });
  expect(pixelsQuerySchema.parse({ x: '-3', y: '0', width: '80', height: '9' })).toMatchObject({ x: -3, width: 80 });
  expect(pixelsQuerySchema.safeParse({ x: '-', y: '0' }).success).toBe(false);
});

test('facts of a file name everything that is shown', () => {
  const facts = {
    fileName: 'a.jpg',
    format: 'jpeg',
    bytes: 5,
    width: 3,
    height: 2,
    channels: 3,
    depth: 8,
    mode: 'RGB',
    ppi: null,
    profile: null,
    jpegQuality: 92,
    clippedDark: 0,
    clippedLight: 0.1,
  };
  expect(factsSchema.parse(facts)).toEqual(facts);
  for (const key of Object.keys(facts))
    expect(factsSchema.safeParse({ ...facts, [key]: undefined }).success).toBe(false);
});
