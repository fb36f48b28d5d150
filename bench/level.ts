// Turns of known size are planted on pictures with a clear horizon or façade, pieces are cut out of them, and the angle is found from the piece's
// own long lines. How far each picture leans by itself was read off by eye along the line that is named. Part of bench:frame.
import { largestWithin, turn } from '../src/core/chain/turn.ts';
import { chained, pixelsOf } from '../src/core/chain/step.ts';
import { CERTAIN, leanOf, type Lean } from '../src/core/frame/level.ts';
import { lumaPlane } from '../src/core/raster/luma.ts';
import { crop, type Raster } from '../src/core/raster/raster.ts';
import { CLEAN_FITTED, CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { photograph, randomiser, readPicture } from './planted.ts';

const clean = (name: string) => () =>
  cleanPhotograph(
    [...CLEAN_FITTED, ...CLEAN_MEASURED].find((c) => c.file.includes(name))!,
    4,
  );

const demo = (name: string) => () => readPicture(`demo/pictures/${name}.jpg`, 2400);

/** Pictures in which something is level, and how far that leans as they come, degrees clockwise. */
const LEVEL: Array<{ name: string; line: string; leans: number; read: () => Promise<Raster> }> = [
  { name: 'friends', line: 'boards of the wall', leans: -0.45, read: clean('friends') },
  { name: 'Storm', line: 'horizon and rail', leans: 0.85, read: clean('Storm') },
  { name: 'EveningGlow', line: 'far shore', leans: 0.2, read: clean('EveningGlow') },
  { name: 'ColdRipple', line: 'pier', leans: 0.25, read: clean('ColdRipple') },
  { name: 'headland', line: 'sea (rendered)', leans: 0, read: demo('headland-truth') },
  { name: 'cottage', line: 'walls (rendered)', leans: 0, read: demo('cottage-truth') },
  { name: 'garden', line: 'fence (rendered)', leans: 0, read: demo('garden-truth') },
];
/** Pictures in which nothing is. */
const NOTHING = ['acanthus-mollis', 'march-pastoral'].map((name) => ({ name, read: () => photograph(name) }));
for (const name of [
  'Aqua',
  'Dune',
  'FallenLeaf',
  'OneStandsOut',
  'ColorfulCups',
  'TwoWings',
  'LadyBird',
  'YellowFlower',
  'seeding',
  'greentock',
])
  NOTHING.push({ name, read: clean(name) });

const leanIn = (picture: Raster) => leanOf({ width: picture.width, height: picture.height, data: lumaPlane(picture) });

/** A piece of a picture that leans by so much more than the picture does. */
function leaning(picture: Raster, degrees: number, random: () => number): Raster {
  const box = { x: 0, y: 0, width: picture.width, height: picture.height };
  const about: [number, number] = [picture.width / 2, picture.height / 2];
  const kept = largestWithin(box, degrees);
  const turned = chained(pixelsOf(picture), [turn({ degrees: -degrees, about, crop: kept })]).read(kept);
  const [width, height] = [Math.round(turned.width * 0.85), Math.round(turned.height * 0.85)];
  const x = Math.floor(random() * (turned.width - width));
  const y = Math.floor(random() * (turned.height - height));
  return crop(turned, { x, y, width, height });
}

export async function benchLevel(say: (line: string) => void): Promise<boolean> {
  const random = randomiser(5);
  let [within3, within2, count, sure] = [0, 0, 0, 0];
  for (const { name, line, leans, read } of LEVEL) {
    const picture = await read();
    const own = leanIn(picture);
    const told: string[] = [];
    for (const side of [-1, 1, -0.5]) {
      const planted = side * (1 + 7 * random());
      const found: Lean | null = leanIn(leaning(picture, planted, random));
      const off = found ? Math.abs(found.degrees - leans - planted) : Infinity;
      count++;
      if (off <= 0.3) within3++;
      if (off <= 0.2) within2++;
      if (found && found.certainty >= CERTAIN) sure++;
      told.push(`${planted.toFixed(2)}: ${off.toFixed(2)} off (${found?.certainty.toFixed(2)})`);
    }
    say(
      `${name.padEnd(16)} ${line.padEnd(20)} as it came ${own?.degrees.toFixed(2)} (${own?.certainty.toFixed(2)}); ${told.join(', ')}`,
    );
  }
  let wrong = 0;
  for (const { name, read } of NOTHING) {
    const found = leanIn(await read());
    if (found && found.certainty >= CERTAIN) {
      wrong++;
      say(
        `${name.padEnd(16)} nothing level, yet ${found.degrees.toFixed(2)} is proposed (${found.certainty.toFixed(2)})`,
      );
    }
  }
  say(
    `turns of 1 to 8 degrees: ${within3} of ${count} found to 0.3 (must 16 of 20), ${within2} to 0.2 (aim 18); sure in ${sure}`,
  );
  say(`nothing level: ${NOTHING.length - wrong} of ${NOTHING.length} say so`);
  return within3 >= 0.8 * count;
}
if (process.argv[1]?.endsWith('level.ts')) process.exitCode = (await benchLevel(console.log)) ? 0 : 1;
