// npm run bench:check-speed : how long checks take, on one thread: 200 repairs on 14 megapixels, and one of 300 px.
import { checkPicture, signsOf } from '../src/core/check/check.ts';
import { placeOf } from '../src/core/check/place.ts';
import { blob, photograph, randomiser } from './planted.ts';
import { rasterise } from '../src/core/mask/shapes.ts';

const picture = await photograph('dust-bowl-home', 4350);
const { width, height } = picture;
const random = randomiser(5);
const cover = (places: Array<[number, number, number]>) =>
  rasterise(
    places.flatMap(([x, y, radius]) => blob(x, y, radius)),
    { x: 0, y: 0, width, height },
  ).data;
const many = cover(
  Array.from({ length: 200 }, () => {
    const radius = 6 + 44 * random() ** 2;
    return [80 + random() * (width - 160), 80 + random() * (height - 160), radius];
  }),
);
const one = cover([[width / 2, height / 2, 136]]);
checkPicture({ after: picture }, one);
const timed = (covers: Uint8Array) => {
  from = performance.now();
  const found = checkPicture({ after: picture }, covers).length;
  return { ms: performance.now() - from, found };
};
const box = { x: Math.round(width / 2) - 170, y: Math.round(height / 2) - 170, width: 340, height: 340 };
let from = performance.now();
for (let n = 0; n < 5; n++) signsOf(placeOf({ after: picture }, one, box));
const alone = { ms: (performance.now() - from) / 5 };
const all = timed(many);
console.log(
  `${((width * height) / 1e6).toFixed(1)} megapixels, one thread: 200 repairs ${(all.ms / 1000).toFixed(1)} s (${all.found} findings; must 5 s on two), one of 300 px ${alone.ms.toFixed(0)} ms (must 150)`,
);
