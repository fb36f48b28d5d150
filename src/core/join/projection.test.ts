import { seenAt, turnOf, type Camera } from './camera.ts';
import { boxOn, directionAt, laidAt, projectionFor, Seeing } from './projection.ts';

const camera = (yaw: number, roll = 0, bend = -0.03): Camera => ({
  width: 600,
  height: 400,
  focal: 700,
  bend,
  turn: turnOf([0, yaw, roll]),
});

test('a direction is laid where it comes from, flat and on a cylinder', () => {
  const at = [0, 0];
  for (const kind of ['flat', 'cylinder'] as const)
    for (const [x, y] of [
      [0, 0],
      [310, -120],
      [-260, 90],
    ]) {
      const projection = { kind, focal: 500, turn: turnOf([0.1, 0.2, -0.1]) };
      expect(laidAt(projection, directionAt(projection, x, y), at)).toBe(true);
      expect(at[0]).toBeCloseTo(x, 8);
      expect(at[1]).toBeCloseTo(y, 8);
    }
});

test('on a cylinder degrees to the side are as many px each, flat their tangent', () => {
  const at = [0, 0];
  const side = [Math.sin(0.5), 0, Math.cos(0.5)] as const;
  const turn = turnOf([0, 0, 0]);
  laidAt({ kind: 'cylinder', focal: 1000, turn }, side, at);
  expect(at[0]).toBeCloseTo(500, 8);
  laidAt({ kind: 'flat', focal: 1000, turn }, side, at);
  expect(at[0]).toBeCloseTo(1000 * Math.tan(0.5), 8);
  expect(laidAt({ kind: 'flat', focal: 1000, turn }, [1, 0, 0.1], at)).toBe(false);
});

test('few degrees are laid flat, many on a cylinder, and what is asked for is done', () => {
  expect(projectionFor([camera(-0.1), camera(0.1)], 'auto').kind).toBe('flat');
  const wide = [camera(-0.6), camera(0), camera(0.6)];
  const { kind, degrees } = projectionFor(wide, 'auto');
  expect(kind).toBe('cylinder');
  // 0.6 radians and half of what one frame sees.
  expect(Math.abs(degrees - (180 / Math.PI) * (0.6 + Math.atan(300 / 700)))).toBeLessThan(3);
  expect(projectionFor(wide, 'flat').kind).toBe('flat');
});

test('frames that lean all the same way are laid level, and in the middle', () => {
  const frames = [camera(-0.3), camera(0.1), camera(0.5)].map((c) => ({ ...c, turn: [...c.turn] }));
  const projection = projectionFor(frames, 'flat');
  const boxes = frames.map((c) => boxOn(projection, c));
  const left = Math.min(...boxes.map((b) => b.x));
  const right = Math.max(...boxes.map((b) => b.x + b.width));
  expect(Math.abs(left + right)).toBeLessThan(0.06 * (right - left));
  const leaning = [-0.3, 0, 0.3].map((yaw) => camera(yaw, 0.05));
  const level = projectionFor(leaning, 'flat');
  const at = [0, 0];
  const middles = leaning.map(({ turn }) => {
    laidAt(level, [turn[6], turn[7], turn[8]], at);
    return at[1];
  });
  expect(Math.abs(middles[0] - middles[2])).toBeLessThan(0.03 * 700);
});

test('where a frame sees the px of the canvas is worked out to two hundredths of a px', () => {
  const own = camera(0.2, 0.05);
  for (const kind of ['flat', 'cylinder'] as const) {
    const projection = { ...projectionFor([own], 'flat'), kind };
    const box = boxOn(projection, own);
    const seeing = new Seeing(projection, own, box);
    const row = new Float64Array(2 * box.width);
    const at = [0, 0];
    let looked = 0;
    for (let y = 0; y < box.height; y += 1) {
      seeing.row(y, row);
      for (let x = 0; x < box.width; x += 13) {
        if (!(row[2 * x] === row[2 * x]) || y % 17) continue;
        if (!seenAt(own, directionAt(projection, box.x + x, box.y + y), at)) continue;
        expect(Math.hypot(row[2 * x] - at[0], row[2 * x + 1] - at[1])).toBeLessThan(0.02);
        looked++;
      }
    }
    expect(looked).toBeGreaterThan(300);
  }
});
