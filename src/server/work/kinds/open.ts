import { decodeFile, factsOf } from '../../../codec/decode.ts';
import type { GivenLayer } from '../../../codec/decoded.ts';
import type { Limits } from '../../../codec/limits.ts';
import type { Facts } from '../../../contract/studio.ts';
import { allocatePyramid, refreshPyramid } from '../../../core/raster/pyramid.ts';
import { boxOf, type Raster } from '../../../core/raster/raster.ts';
import type { Work } from '../work.ts';

interface Input {
  /** a file on its way in, of which facts are measured; or one that is kept */
  path?: string;
  file?: Uint8Array;
  fileName: string;
  limits: Limits;
}

interface Output {
  raster: Raster;
  /** halved again and again, for the view */
  pyramid: Raster[];
  facts: Facts | null;
  icc: Uint8Array | null;
  layers: GivenLayer[];
}

/** Decodes a file, and measures one that comes in. */
export const open: Work<Input, Output> = {
  native: true,
  async run({ path, file, fileName, limits }, progress) {
    progress(0.05);
    const decoded = await decodeFile(path ?? Buffer.from(file!), limits);
    progress(0.6);
    const pyramid = allocatePyramid(decoded.raster);
    refreshPyramid(decoded.raster, pyramid, boxOf(decoded.raster));
    progress(0.9);
    const facts = path ? factsOf(decoded, path, fileName) : null;
    return { raster: decoded.raster, pyramid, facts, icc: decoded.icc, layers: decoded.layers ?? [] };
  },
};
