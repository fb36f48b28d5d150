import type { PictureDocument, Repair } from '../../../contract/document.ts';
import type { Point, Shape } from '../../../core/mask/shapes.ts';
import { PLAIN_POSE } from '../../../core/repair/hand/donor.ts';
import {
  bent,
  float,
  floatTwin,
  handlesOf,
  movedShapes,
  seenAt,
  specOf,
  takenUp,
  turnedBy,
  UNBENT,
} from './floating.ts';
import { donorAt, donorWarning, takenFrom } from './warnings.ts';

const AREA = { x: 0, y: 0, width: 1000, height: 800 };
const area: Shape[] = [{ op: 'add', kind: 'box', x: 100, y: 200, width: 40, height: 60 }];
const settings = { direction: 'to the good' as const, blended: true, feather: 4 };
const repair = (spec: object, set: Partial<Repair> = {}): Repair =>
  ({
    id: 'r1',
    layerId: 'l',
    order: 1,
    faultIds: ['f1'],
    tries: [{ id: 't1', spec }],
    chosen: 't1',
    strength: 1,
    visible: true,
    ...set,
  }) as Repair;

describe('what floats', () => {
  test('a bad area dragged to a good one: the cover stays, the donor is where it was dragged', () => {
    const f = float('patch', area, AREA)!;
    expect(f.middle).toEqual([120, 230]);
    const spec = specOf({ ...f, at: [320.4, 150] }, settings);
    expect(spec).toMatchObject({ method: 'patch', cover: area, donor: { from: [320, 150], at: [120, 230] } });
  });

  test('a good area dragged onto a bad one: the cover moves, the donor is where it was outlined', () => {
    const f = float('patch', area, AREA)!;
    const spec = specOf({ ...f, at: [320.4, 150] }, { ...settings, direction: 'onto the bad' });
    expect(spec).toMatchObject({
      cover: [{ kind: 'box', x: 300, y: 120, width: 40, height: 60 }],
      donor: { from: [120, 230], at: [320, 150] },
    });
    expect(movedShapes(area, 200.4, -80)).toEqual([{ ...area[0], x: 300, y: 120 }]);
  });

  test('what was put down is taken up as it was', () => {
    const f = {
      ...float('transplant', area, AREA)!,
      at: [500, 400] as Point,
      pose: { turn: 30, scale: 1.5, mirror: 'across' as const },
    };
    const spec = specOf(f, settings);
    const again = takenUp(repair(spec), AREA)!;
    expect(again).toMatchObject({ kind: 'transplant', middle: f.middle, at: f.at, pose: f.pose, editing: 'r1' });
    expect(specOf(again, settings)).toEqual(spec);
    const patch = specOf({ ...float('patch', area, AREA)!, at: [320, 150] }, settings);
    expect(specOf(takenUp(repair(patch), AREA)!, settings)).toEqual(patch);
  });

  test('its handles turn, grow and are mirrored with it; one that is dragged comes to lie where it was dragged', () => {
    const f = {
      ...float('transplant', area, AREA)!,
      at: [500, 400] as Point,
      pose: { turn: 90, scale: 2, mirror: 'none' as const },
    };
    const [topLeft] = handlesOf(f);
    // The corner 20 px to the left and 30 above goes, turned a quarter clockwise and doubled, 60 to the right and 40 above.
    expect(topLeft[0]).toBeCloseTo(560, 6);
    expect(topLeft[1]).toBeCloseTo(360, 6);
    const dragged = bent(f, 0, 7, -5);
    expect(handlesOf(dragged)[0][0]).toBeCloseTo(567, 6);
    expect(handlesOf(dragged)[0][1]).toBeCloseTo(355, 6);
    expect(handlesOf(dragged)[8]).toEqual(handlesOf(f)[8]);
    expect(seenAt(f, ...f.middle)[0]).toBeCloseTo(500, 6);
    expect(UNBENT).toHaveLength(9);
  });

  test('the knob turns and sizes, within bounds', () => {
    const turned = turnedBy(PLAIN_POSE, [0, 0], [0, -10], [20, 0]);
    expect(turned).toMatchObject({ turn: 90, scale: 2 });
    expect(turnedBy(PLAIN_POSE, [0, 0], [0, -10], [0, -900]).scale).toBe(4);
    expect(turnedBy({ ...PLAIN_POSE, turn: 170 }, [0, 0], [0, -10], [10, 0]).turn).toBe(-100);
  });

  test('a twin is lifted with its surroundings and brought to the fault, at the picture’s edge too', () => {
    const f = floatTwin(area, { at: [600, 230], mirrored: true }, AREA)!;
    expect(f.pose.mirror).toBe('across');
    expect(f.at).toEqual([120, 230]);
    expect(f.box.width).toBeGreaterThan(100);
    const edge = floatTwin(area, { at: [985, 230], mirrored: true }, AREA)!;
    // Cut at the right edge, its middle lies further left; mirrored it comes to lie as much further right.
    expect(edge.at[0] - 120).toBeCloseTo(985 - edge.middle[0], 6);
  });

  test('nothing floats that lies beside the picture', () => {
    expect(float('patch', [{ op: 'add', kind: 'box', x: -90, y: -90, width: 40, height: 40 }], AREA)).toBeNull();
  });
});

describe('warnings of a travelling donor', () => {
  const stroke = {
    points: [[300, 300, 1]],
    size: 20,
    hardness: 0.7,
    flow: 0.7,
    opacity: 1,
    spacing: 0.12,
    pressure: 'none',
  };
  const donor = { ...PLAIN_POSE, from: [500, 300] as Point, at: [300, 300] as Point, travels: true };
  const document: PictureDocument = {
    faults: [
      { id: 'f1', number: 1, kind: 'speck', shapes: area, margin: 1, feather: 0, state: 'open' },
      { id: 'f2', number: 2, kind: 'hair', shapes: movedShapes(area, 300, 0), margin: 1, feather: 0, state: 'open' },
      { id: 'f3', number: 3, kind: 'hair', shapes: movedShapes(area, 600, 0), margin: 1, feather: 0, state: 'treated' },
    ],
    layers: [],
    steps: [],
    repairs: [repair({ method: 'copy', strokes: [stroke], donor })],
  };
  const own = { repairId: null, faultIds: ['f1'] };
  const warn = (
    x: number,
    y: number,
    barred: Shape[] = [],
    as = own as Parameters<typeof donorWarning>[6],
    subject: Shape[] = [],
  ) => donorWarning([x, y], 10, AREA, document, barred, subject, as);

  test('an open fault, the fault itself, the edge, a barred area, a place already taken from', () => {
    expect(warn(420, 230)).toContain('fault 2');
    expect(warn(120, 230)).toContain('the fault itself');
    expect(warn(6, 500)).toContain('over the edge');
    expect(warn(850, 700, [{ op: 'add', kind: 'box', x: 800, y: 650, width: 100, height: 100 }])).toContain('barred');
    expect(warn(505, 305)).toContain('repeat');
    expect(warn(850, 700, [], own, [{ op: 'add', kind: 'box', x: 800, y: 650, width: 100, height: 100 }])).toContain(
      'subject',
    );
  });

  test('says nothing of treated faults, its own repair and clean ground; warns a little before it is reached', () => {
    expect(warn(720, 230)).toBeNull();
    expect(warn(505, 305, [], { repairId: 'r1', faultIds: [] })).toBeNull();
    expect(warn(850, 700)).toBeNull();
    expect(warn(456, 230)).toBeNull();
    expect(warn(453, 230)).toContain('fault 2');
  });

  test('where pixels were taken from, turned donors too', () => {
    expect(donorAt(donor, [310, 290])).toEqual([510, 290]);
    const box = takenFrom(repair({ method: 'copy', strokes: [stroke], donor: { ...donor, turn: 90 } }), AREA)!;
    expect(box.x + box.width / 2).toBeCloseTo(500, 0);
    expect(box.width).toBeGreaterThanOrEqual(20);
    expect(takenFrom(repair({ method: 'fill' }), AREA)).toBeNull();
  });
});
