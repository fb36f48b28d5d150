import { writeFile } from 'node:fs/promises';
import { encode } from '../../../codec/encode.ts';
import { joinFiles, type FrameFile } from '../../../codec/join-files.ts';
import type { Limits } from '../../../codec/limits.ts';
import { accountOf, gapShapes, type JoinAccount } from '../../../core/join/account.ts';
import type { FrameMarks } from '../../../core/join/lay.ts';
import type { ProjectionKind } from '../../../core/join/projection.ts';
import type { Shape } from '../../../core/mask/shapes.ts';
import type { Work } from '../work.ts';

interface Input {
  frames: FrameFile[];
  projection: ProjectionKind | 'auto';
  marks: ReadonlyArray<FrameMarks | null>;
  limits: Limits;
  /** where the joined picture is written, as PNG */
  path: string;
}

/** Joins frames and writes the picture they make. What comes with its first frame goes on with it. */
export const join: Work<Input, { account: JoinAccount; gaps: Shape[] }> = {
  native: true,
  async run({ frames, projection, marks, limits, path }, progress) {
    const { made, first } = await joinFiles(frames, projection, limits, progress, marks);
    const account = accountOf(made);
    const gaps = gapShapes(made.gaps, account);
    const { icc, exif, resolution } = first;
    await writeFile(path, await encode(made.picture, 'png', { icc, exif, resolution }));
    return { account, gaps };
  },
};
