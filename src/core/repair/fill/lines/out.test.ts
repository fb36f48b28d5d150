import { beneathOf } from '../../../chain/chain.ts';
import { findingsOf, signsOf } from '../../../check/check.ts';
import { placeOf } from '../../../check/place.ts';
import { compositeOver } from '../../../raster/patch.ts';
import { createRaster, fullScale, type Box, type Depth, type Raster } from '../../../raster/raster.ts';
import { dated, renderRepair } from '../../registry.ts';
import { fillOfAdded } from '../added.ts';
import { linesOut } from './out.ts';

const [WIDTH, HEIGHT] = [520, 300];
const RIGHT = { x: 400, y: 0, width: 120, height: HEIGHT };
const LEFT = { x: 0, y: 0, width: 120, height: HEIGHT };
const ABOVE = { x: 0, y: 0, width: WIDTH, height: 70 };

/** How far a wire hides what is at a place; 0 where it does not. */
type Wire = (x: number, y: number) => number;
const ramp = (v: number) => Math.min(1, Math.max(0, v));
/** A wire so many px across that hangs in a parabola, its edges a pixel soft. */
const hanging =
  (lowest: [x: number, y: number], bend: number, across = 4): Wire =>
  (x, y) => {
    const slope = 2 * bend * (x + 0.5 - lowest[0]);
    const d = (y + 0.5 - lowest[1] + bend * (x + 0.5 - lowest[0]) ** 2) / Math.hypot(1, slope);
    return ramp(across / 2 + 0.5 - Math.abs(d));
  };
const straight =
  (at: number, falls: number, across = 4): Wire =>
  (x, y) =>
    ramp(across / 2 + 0.5 - Math.abs(y + 0.5 - at - falls * (x + 0.5)) / Math.hypot(1, falls));

/** A sky that becomes lighter downwards, with grain, before it wires. */
function sky(wires: readonly Wire[], colour = [40, 34, 30], depth: Depth = 8): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, depth);
  const unit = fullScale(depth) / 255;
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const grain = ((Math.imul(i + 7, 2654435761) >>> 9) % 9) - 4;
      const hidden = wires.reduce((most, wire) => Math.max(most, wire(x, y)), 0);
      for (let c = 0; c < 3; c++) {
        const ground = 130 + 20 * c + y / 6 + grain;
        out.data[3 * i + c] = Math.round((ground + hidden * (colour[c] - ground)) * unit);
      }
    }
  return out;
}
const isIn = ({ x, y, width, height }: Box, i: number) => {
  const [u, v] = [i % WIDTH, Math.floor(i / WIDTH)];
  return u >= x && u < x + width && v >= y && v < y + height;
};
const partOf = (box: Box) => Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => (isIn(box, i) ? 1 : 0));
const outside = (box: Box) => partOf(box).map((v) => 1 - v);
const emptied = (picture: Raster, box: Box) => {
  const out = { ...picture, data: picture.data.slice() };
  for (let i = 0; i < WIDTH * HEIGHT; i++) if (isIn(box, i)) out.data.fill(fullScale(out.depth), 3 * i, 3 * i + 3);
  return out;
};

test.each([
  ['dark wires that hang, to the right', RIGHT, [hanging([180, 200], 0.0012), hanging([180, 240], 0.0014, 6)], 8],
  ['light ropes, to the left', LEFT, [straight(120, 0.4), straight(170, 0.45, 3)], 16],
  ['a mast, above', ABOVE, [straight(-560, 3.2, 7)], 8],
] as const)('thin lines go on where they truly are: %s', (_, box, wires, depth) => {
  const colour = box === LEFT ? [250, 246, 240] : undefined;
  const truth = sky(wires, colour, depth);
  const lines = linesOut(emptied(truth, box), outside(box), box)!;
  expect(lines.words).toContain(wires.length > 1 ? `${wires.length} thin lines` : 'A thin line');
  // Drawn onto a sky without any, it is as if they had been seen there.
  const done = sky([], colour, depth);
  const missing = done.data.slice();
  lines.draw(done, partOf(box));
  let [error, before, count, touched] = [0, 0, 0, 0];
  for (let i = 0; i < done.data.length; i++) {
    const k = Math.floor(i / 3);
    if (!isIn(box, k)) {
      touched += Number(done.data[i] !== missing[i]);
      continue;
    }
    if (missing[i] === truth.data[i]) continue;
    count++;
    error += (done.data[i] - truth.data[i]) ** 2;
    before += (missing[i] - truth.data[i]) ** 2;
  }
  expect(touched).toBe(0);
  expect(count).toBeGreaterThan(1000);
  expect(error / before).toBeLessThan(0.03);
  // All of them is told, as far as the picture goes.
  const wire = truth.data.map((v, i) => Number(Math.abs(v - missing[i]) > fullScale(depth) / 4));
  const missed = lines.mask.filter((v, k) => !v && wire[3 * k] && !isIn(box, k)).length;
  expect(missed).toBe(0);
});

test.each([
  ['nothing', [], 8],
  ['what is level, as layouts carry that on', [straight(150, 0.01)], 8],
  ['the threads of a mesh', [straight(40, 0.5), straight(270, -0.5), straight(90, 0.5), straight(300, -0.4)], 8],
  ['what is broad', [straight(60, 0.3, 30)], 8],
] as const)('none are seen: %s', (_, wires, depth) => {
  const picture = sky(wires, undefined, depth);
  expect(linesOut(emptied(picture, RIGHT), outside(RIGHT), RIGHT)).toBeNull();
});

test('one that goes on behind a post, at an angle there, is told as far as it goes', () => {
  const isPost = (x: number) => x >= 220 && x < 250;
  const [from, to] = [straight(60, 0.3), straight(108.5, 0.1)];
  const wire: Wire = (x, y) => (x < 235 ? to(x, y) : from(x, y));
  const picture = sky([wire, (x) => Number(isPost(x))], [70, 50, 40]);
  const { mask } = linesOut(emptied(picture, RIGHT), outside(RIGHT), RIGHT)!;
  const missed = mask.filter((v, i) => {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    return !v && !isIn(RIGHT, i) && !isPost(x) && wire(x, y) === 1;
  });
  expect(missed).toHaveLength(0);
});

test('a line that lies under another fault is none: nothing is known there', () => {
  const wire = hanging([180, 200], 0.0012);
  const picture = sky([wire]);
  const known = outside(RIGHT).map((v, i) => (wire(i % WIDTH, Math.floor(i / WIDTH)) > 0 ? 0 : v));
  expect(linesOut(emptied(picture, RIGHT), known, RIGHT)).toBeNull();
});

test('what is added at a side has whole wires and no pieces of them beside', () => {
  const wires = [hanging([150, 190], 0.0012), hanging([150, 230], 0.0013)];
  const truth = sky(wires);
  const done = emptied(truth, RIGHT);
  const spec = dated(fillOfAdded([RIGHT]));
  const { patch, reason } = renderRepair(beneathOf(done, [], spec), spec);
  compositeOver(done, { x: 0, y: 0 }, patch, 1);
  expect(reason).toContain('2 thin lines leave the picture there: carried on as they run.');
  let [off, wire] = [0, 0];
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    if (!isIn(RIGHT, i)) continue;
    wire += Number(truth.data[3 * i] < 90);
    off += Number(truth.data[3 * i] < 90 !== done.data[3 * i] < 90);
  }
  expect(wire).toBeGreaterThan(800);
  expect(off).toBeLessThan(0.15 * wire);
  const found = findingsOf(signsOf(placeOf({ after: done }, partOf(RIGHT), RIGHT)), WIDTH);
  expect(found.filter((f) => f.kind.endsWith('-line'))).toEqual([]);
});
