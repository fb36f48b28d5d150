import { VIEWS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import type { TileView } from '../../contract/views.ts';
import { canvasOfState } from '../lib/canvas.ts';
import type { PictureState } from '../../contract/api.ts';
import { levelsFor, TILE_SIDE } from '../../core/raster/pyramid.ts';

/**
 * Where the viewer finds its tiles. Each tile's address carries the last version in which it changed, so that after a
 * repair only the tiles it touches are fetched again.
 */
export function tileSource(state: PictureState, view: TileView) {
  const { id } = state.picture;
  const { width, height } = canvasOfState(state);
  const { epoch, across, tiles } = state.pixels;
  const levels = levelsFor(width, height);
  const down = Math.ceil(height / TILE_SIDE);
  const versions = new Map(tiles);
  /** The newest version of the full-size tiles that a tile of a halved view stands for. */
  const versionOf = (level: number, x: number, y: number): number => {
    let newest = 0;
    for (let row = y << level; row < Math.min(down, (y + 1) << level); row++)
      for (let column = x << level; column < Math.min(across, (x + 1) << level); column++)
        newest = Math.max(newest, versions.get(row * across + column) ?? 0);
    return newest;
  };
  return {
    width,
    height,
    tileSize: TILE_SIDE,
    tileOverlap: 0,
    minLevel: 0,
    maxLevel: levels,
    getTileUrl(osdLevel: number, x: number, y: number): string {
      const level = levels - osdLevel;
      const version = view === 'original' ? 0 : versionOf(level, x, y);
      return addressOf(VIEWS.tile, { id, view, version: `${epoch}.${version}`, level, x, y });
    },
  };
}
