import type { PictureState } from '../../contract/api.ts';
import { TILE_SIDE } from '../../core/raster/pyramid.ts';
import { tileSource } from './tiles.ts';

const [WIDTH, HEIGHT] = [4 * TILE_SIDE - 40, 3 * TILE_SIDE - 7];
/** A picture of 4 × 3 tiles, some of which changed. */
const stateOf = (tiles: Array<[number, number]>, steps: unknown[] = []): PictureState =>
  ({
    picture: { id: 'p1', facts: { width: WIDTH, height: HEIGHT } },
    document: { steps, faults: [], layers: [], repairs: [] },
    pixels: { epoch: 'e7', version: 9, across: 4, tiles },
  }) as unknown as PictureState;
const versionIn = (address: string) => /e7\.(\d+)/.exec(address)?.[1];

test('a tile’s address carries the version in which it changed last, and that of no other', () => {
  const source = tileSource(stateOf([[0, 3], [6, 8]]), 'now' as never); // prettier-ignore
  const full = source.maxLevel;
  expect(versionIn(source.getTileUrl(full, 0, 0))).toBe('3');
  expect(versionIn(source.getTileUrl(full, 2, 1))).toBe('8');
  for (const [x, y] of [[1, 0], [3, 2], [0, 1]]) expect(versionIn(source.getTileUrl(full, x, y))).toBe('0'); // prettier-ignore
});

test('a tile of a halved view has the newest version of those it stands for', () => {
  const source = tileSource(stateOf([[0, 3], [6, 8], [5, 4]]), 'now' as never); // prettier-ignore
  expect(versionIn(source.getTileUrl(source.maxLevel - 1, 0, 0))).toBe('4');
  expect(versionIn(source.getTileUrl(source.maxLevel - 1, 1, 0))).toBe('8');
  expect(versionIn(source.getTileUrl(source.maxLevel - 1, 1, 1))).toBe('0');
  // The smallest view stands for all of them.
  expect(versionIn(source.getTileUrl(0, 0, 0))).toBe('8');
});

test('the original never changes', () => {
  const source = tileSource(stateOf([[0, 3]]), 'original');
  for (const level of [0, source.maxLevel]) expect(versionIn(source.getTileUrl(level, 0, 0))).toBe('0');
});

test('what is viewed is the canvas, not the file', () => {
  expect(tileSource(stateOf([]), 'original')).toMatchObject({ width: WIDTH, height: HEIGHT, tileSize: TILE_SIDE });
  const canvas = { x: -100, y: 0, width: WIDTH + 150, height: HEIGHT };
  const steps = [{ id: 's', order: 1, spec: { step: 'canvas', box: canvas } }];
  expect(tileSource(stateOf([], steps), 'original').width).toBe(WIDTH + 150);
});
