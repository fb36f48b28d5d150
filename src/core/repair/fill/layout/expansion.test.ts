import { createRaster } from '../../../raster/raster.ts';
import { fieldOf } from './decide.ts';
import { LayoutEnergy } from './expansion.ts';
import { BY_DETAIL, BY_GROUND } from './features.ts';
import { finestLevel } from './levels.ts';

const [WIDTH, HEIGHT, END] = [60, 40, 48];

/** Two grounds whose border leans; what lies right of END is to be found. */
function level() {
  const picture = createRaster(WIDTH, HEIGHT, 3, 8);
  for (let y = 0, o = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, o += 3) picture.data.fill(y < 30 - 0.25 * x ? 180 : 70, o, o + 3);
  const known = Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH < END ? 1 : 0));
  return finestLevel(
    picture,
    known.map((v) => 1 - v),
    known,
    known,
  );
}

test.each([
  ['ground', BY_GROUND],
  ['detail', BY_DETAIL],
])('beside a picture a step is not moved a px inwards to become cheap, by %s', (_, weighting) => {
  const field = fieldOf(level(), weighting);
  // The first goes on as it is, the second begins again 24 px before, 6 px lower.
  const energies = new LayoutEnergy(
    field,
    [
      { x: -1, y: 0 },
      { x: -24, y: 0 },
    ],
    'picture',
  );
  const labels = (sliver: number) => Int16Array.from(field.pixels, (p) => (p % WIDTH < END + sliver ? 0 : 1));
  const [atEdge, within] = [0, 1].map((sliver) => energies.energyOf(labels(sliver)));
  expect(within).toBeGreaterThan(atEdge / 3);
  // Elsewhere a step costs what it is.
  const usual = new LayoutEnergy(field, energies.moves);
  expect(usual.energyOf(labels(0))).toBeLessThan(0.5 * atEdge);
});
