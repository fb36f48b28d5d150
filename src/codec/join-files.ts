import { Refused } from '../contract/refused.ts';
import { CannotJoin, join, type Joined } from '../core/join/join.ts';
import type { FrameMarks } from '../core/join/lay.ts';
import type { ProjectionKind } from '../core/join/projection.ts';
import { colourChannels } from '../core/raster/raster.ts';
import { decodeFile } from './decode.ts';
import type { Decoded } from './decoded.ts';
import type { Limits } from './limits.ts';
import { openCv } from './open-cv.ts';

/** A frame as it came. */
export interface FrameFile {
  name: string;
  file: Uint8Array;
}

/** px of a frame's shorter side under which nothing can be matched. */
const LEAST_SIDE = 32;

/** Decodes frames, which have to be of one kind. @throws Refused */
async function decoded(frames: readonly FrameFile[], limits: Limits): Promise<Decoded[]> {
  const out: Decoded[] = [];
  for (const { name, file } of frames) {
    const next = await decodeFile(Buffer.from(file), limits).catch((error: unknown) => {
      throw error instanceof Refused ? new Refused(`${name}: ${error.message}`, error.status) : error;
    });
    const [first = next] = out;
    if (next.raster.channels !== first.raster.channels || next.raster.depth !== first.raster.depth)
      throw new Refused(
        `${name} has other channels or another depth than ${frames[0].name}. Export all frames in one way, and take them in again.`,
      );
    const { width, height, channels } = next.raster;
    if (Math.min(width, height) < LEAST_SIDE)
      throw new Refused(`${name} has ${width} × ${height} px, too few to be joined to anything. Leave it out.`);
    if (colourChannels(channels) < channels)
      throw new Refused(
        `${name} has a transparency channel, and frames are joined without one. Save it without transparency and take it in again.`,
      );
    out.push(next);
  }
  return out;
}

/**
 * Joins frames from their files. The same files give the same pixels, as long as the software stays the same: nothing is left to chance.
 * @returns what was joined, and the first frame, whose profile and facts go on with it
 * @throws Refused in words where they cannot be joined, or make a picture that is too large
 */
export async function joinFiles(
  frames: readonly FrameFile[],
  projection: ProjectionKind | 'auto',
  limits: Limits,
  onProgress: (done: number) => void = () => undefined,
  marks: ReadonlyArray<FrameMarks | null> = [],
): Promise<{ made: Joined; first: Decoded }> {
  const pictures = await decoded(frames, limits);
  onProgress(0.05);
  const { cv } = await openCv();
  onProgress(0.1);
  try {
    const made = join(
      cv,
      pictures.map((p) => p.raster),
      { projection, marks, onProgress: (done) => onProgress(0.1 + 0.75 * done) },
    );
    const { width, height } = made.picture;
    if (width * height > limits.megapixels * 1e6)
      throw new Refused(
        `Joined, the frames would have ${width} × ${height} px; at most ${limits.megapixels} megapixels are taken. Make them smaller, or raise TERSUM_MAX_MEGAPIXELS.`,
        413,
      );
    return { made, first: pictures[0] };
  } catch (error) {
    if (error instanceof CannotJoin) throw new Refused(error.message);
    throw error;
  }
}
