import type { PictureState } from '../../contract/api.ts';
import { TILE_SIDE } from '../../core/raster/pyramid.ts';

/** What tiles show; `changes` are the repairs alone on grey, `only-ID` those of one layer. */
export type TileView = 'repaired' | 'original' | 'difference' | 'changes' | `only-${string}`;

/**
 * Where the viewer finds its tiles. Each tile's address carries the last version in which it changed, so that after a
 * repair only the tiles it touches are fetched again.
 */
export function tileSource(state: PictureState, view: TileView) {
  const { id, facts } = state.picture;
  const { epoch, dirty } = state.pixels;
  const { levels } = state;
  return {
    width: facts.width,
    height: facts.height,
    tileSize: TILE_SIDE,
    tileOverlap: 0,
    minLevel: 0,
    maxLevel: levels,
    getTileUrl(osdLevel: number, x: number, y: number): string {
      const level = levels - osdLevel;
      const side = TILE_SIDE * 2 ** level;
      let version = 0;
      if (view !== 'original') {
        for (const d of dirty) {
          const meets =
            d.x - 8 < (x + 1) * side &&
            d.x + d.width + 8 > x * side &&
            d.y - 8 < (y + 1) * side &&
            d.y + d.height + 8 > y * side;
          if (meets && d.version > version) version = d.version;
        }
      }
      return `/api/pictures/${id}/tiles/${view}/${epoch}.${version}/${level}/${x}/${y}`;
    },
  };
}
