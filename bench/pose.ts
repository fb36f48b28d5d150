// npm run bench:pose : how near the solved pose of a lifted piece comes to the known one, on photographs.
// The piece lies in one half of a picture, the other half shows it in a pose of our choosing with noise of 6 levels on top.
import { sampleAffine } from '../src/core/raster/affine.ts';
import { crop, createRaster, type Box, type Raster } from '../src/core/raster/raster.ts';
import { inverse, mapOf, type Pose } from '../src/core/repair/hand/donor.ts';
import { solvePose } from '../src/core/repair/hand/solve-pose.ts';
import { photograph, randomiser } from './planted.ts';

const SIDE = 400;
const random = randomiser(11);
const names = ['acanthus-mollis', 'dust-bowl-home', 'nagasaki-boats', 'black-canyon'] as const;
const list: Array<{ shift: number; turn: number; scale: number; mirror: boolean; seconds: number }> = [];
for (const name of names) {
  const picture = await photograph(name, 1600);
  for (let n = 0; n < 4; n++) {
    const pose: Pose = {
      turn: (random() - 0.5) * 360,
      scale: 0.7 + 0.8 * random(),
      mirror: random() < 0.5 ? 'none' : 'across',
    };
    const from: [number, number] = [400 + random() * (picture.width - 800), 400 + random() * (picture.height - 800)];
    // Two pictures side by side in one: left as it is, right the same in the pose, around the middle of the right half.
    const w = picture.width;
    const right: Box = { x: 0, y: 0, width: 1000, height: 1000 };
    const at: [number, number] = [500, 500];
    const read = (box: Box) => crop(picture, box);
    const posed = sampleAffine(read, picture, mapOf(from, at, pose, false), right);
    const both: Raster = createRaster(w + 1000, Math.max(picture.height, 1000), 3, 8);
    for (let y = 0; y < picture.height; y++)
      both.data.set(picture.data.subarray(y * w * 3, (y + 1) * w * 3), y * both.width * 3);
    for (let y = 0; y < 1000; y++)
      for (let i = 0; i < 3000; i++)
        both.data[(y * both.width + w) * 3 + i] = Math.min(
          255,
          Math.max(0, Math.round(posed.values[y * 3000 + i] + (random() - 0.5) * 6)),
        );
    const piece = [
      {
        op: 'add' as const,
        kind: 'box' as const,
        x: from[0] - SIDE / 2,
        y: from[1] - SIDE / 2,
        width: SIDE,
        height: SIDE,
      },
    ];
    const beneath = { width: both.width, height: both.height, read: (box: Box) => crop(both, box) };
    const rough: [number, number] = [w + 500 + (random() - 0.5) * 160, 500 + (random() - 0.5) * 160];
    const started = performance.now();
    const got = solvePose(beneath, piece, rough);
    const seconds = (performance.now() - started) / 1000;
    // The middle of the piece's box of whole pixels differs from `from` by less than a pixel: compare where it lands.
    const bx = { x: Math.floor(from[0] - SIDE / 2), y: Math.floor(from[1] - SIDE / 2) };
    const mid: [number, number] = [
      bx.x + (Math.ceil(from[0] + SIDE / 2) - bx.x) / 2,
      bx.y + (Math.ceil(from[1] + SIDE / 2) - bx.y) / 2,
    ];
    const back = inverse(mapOf(from, [w + 500, 500], pose, false));
    const [tx, ty] = [back.a * mid[0] + back.b * mid[1] + back.e, back.c * mid[0] + back.d * mid[1] + back.f];
    const turned = Math.abs(((got.turn - pose.turn + 540) % 360) - 180);
    list.push({
      shift: Math.hypot(got.at[0] - tx, got.at[1] - ty),
      turn: turned,
      scale: Math.abs(got.scale / pose.scale - 1),
      mirror: got.mirror === pose.mirror,
      seconds,
    });
    const l = list.at(-1)!;
    console.log(
      `${name.padEnd(18)} turn ${pose.turn.toFixed(1).padStart(7)}° scale ${pose.scale.toFixed(2)} ${pose.mirror.padEnd(6)} → off by ${l.shift.toFixed(3)} px, ${l.turn.toFixed(3)}°, ${(100 * l.scale).toFixed(2)} %, mirror ${l.mirror ? 'right' : 'WRONG'}, agreement ${got.agreement.toFixed(3)}, ${l.seconds.toFixed(2)} s`,
    );
  }
}
const right = list.filter((l) => l.shift <= 0.5 && l.turn <= 0.5 && l.scale <= 0.01 && l.mirror).length;
console.log(`${right} of ${list.length} within 0.5 px, 0.5°, 1 % and the right way round`);
