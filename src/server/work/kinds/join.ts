import { writeFile } from 'node:fs/promises';
import { decodeFile } from '../../../codec/decode.ts';
import type { Decoded } from '../../../codec/decoded.ts';
import { encode } from '../../../codec/encode.ts';
import type { Limits } from '../../../codec/limits.ts';
import { openCv } from '../../../codec/open-cv.ts';
import { Refused } from '../../../contract/refused.ts';
import { accountOf, gapShapes, type JoinAccount } from '../../../core/join/account.ts';
import { CannotJoin, join as joined } from '../../../core/join/join.ts';
import type { ProjectionKind } from '../../../core/join/projection.ts';
import type { Shape } from '../../../core/mask/shapes.ts';
import type { Work } from '../work.ts';

interface Input {
  frames: Array<{ name: string; file: Uint8Array }>;
  projection: ProjectionKind | 'auto';
  limits: Limits;
  /** where the joined picture is written, as PNG */
  path: string;
}

/** Decodes frames, which have to be of one kind. @throws Refused */
async function decoded(frames: Input['frames'], limits: Limits): Promise<Decoded[]> {
  const out: Decoded[] = [];
  for (const { name, file } of frames) {
    const next = await decodeFile(Buffer.from(file), limits);
    const [first = next] = out;
    if (next.raster.channels !== first.raster.channels || next.raster.depth !== first.raster.depth)
      throw new Refused(
        `${name} has other channels or another depth than ${frames[0].name}. Export all frames in one way, and take them in again.`,
      );
    out.push(next);
  }
  return out;
}

/** Joins frames and writes the picture they make. What comes with its first frame goes on with it. */
export const join: Work<Input, { account: JoinAccount; gaps: Shape[] }> = {
  native: true,
  async run({ frames, projection, limits, path }, progress) {
    const pictures = await decoded(frames, limits);
    progress(0.05);
    const { cv } = await openCv();
    progress(0.1);
    const [first] = pictures;
    try {
      const made = joined(
        cv,
        pictures.map((p) => p.raster),
        { projection, onProgress: (done) => progress(0.1 + 0.75 * done) },
      );
      const { width, height } = made.picture;
      if (width * height > limits.megapixels * 1e6)
        throw new Refused(
          `Joined, the frames would have ${width} × ${height} px; at most ${limits.megapixels} megapixels are taken. Make them smaller, or raise TERSUM_MAX_MEGAPIXELS.`,
          413,
        );
      const account = accountOf(made);
      const gaps = gapShapes(made.gaps, account);
      const { icc, exif, resolution } = first;
      await writeFile(path, await encode(made.picture, 'png', { icc, exif, resolution }));
      return { account, gaps };
    } catch (error) {
      if (error instanceof CannotJoin) throw new Refused(error.message);
      throw error;
    }
  },
};
