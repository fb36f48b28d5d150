import { coverBounds, shiftShapes } from '../../mask/shapes.ts';
import { emptyPatch } from '../../raster/patch.ts';
import { colourChannels, fullScale, growWithin, type Box } from '../../raster/raster.ts';
import type { Beneath, RepairMethod, Rendered } from '../method.ts';
import type { LiftSpec } from '../spec.ts';
import { overArea } from './area.ts';
import { SURE } from './fit.ts';
import { lineOf, overLine } from './along-line.ts';
import { BEYOND, lookedAt, readKnown } from './read-known.ts';

/** Share of a channel's contrast under which nothing can be read any more. */
const LEGIBLE = 0.12;
const PIXEL: Box = { x: 0, y: 0, width: 1, height: 1 };
/** Said where nothing is done, and where nothing can be. */
const UNSURE =
  'Not sure what lies over the picture here: its edge does not stand out from what is around. Left as it is. Draw the outline closer to the edge, lift it anyway, or fill it.';
const TOO_LITTLE =
  'Too little around this place is known to lift anything. Draw the outline so that the stain’s edge lies in the picture, or fill it.';

function render(beneath: Beneath, spec: LiftSpec): Rendered {
  const { known, frame } = readKnown(beneath, spec);
  const { width, height } = beneath;
  const bounds = growWithin(coverBounds(spec.cover, 0, 0, width, height), BEYOND, width, height);
  const line = lineOf(spec.cover);
  const over = line ? overLine(line, known, frame, bounds) : overArea(beneath, spec, known, frame, bounds);
  if (!over) throw new Error(TOO_LITTLE);
  const picture = beneath.read(PIXEL);
  const sure = over.certainty >= SURE;
  if (!sure && !spec.anyway) return { patch: emptyPatch({ ...bounds, width: 0, height: 0 }, picture), reason: UNSURE };
  const colours = colourChannels(picture.channels);
  const patch = emptyPatch(bounds, picture);
  const top = fullScale(picture.depth);
  const [gain, offset] = [new Float32Array(colours), new Float32Array(colours)];
  for (let y = 0, i = 0; y < bounds.height; y++) {
    for (let x = 0; x < bounds.width; x++, i++) {
      if (!over.at(i, gain, offset)) continue;
      const from = 4 * ((y + bounds.y - frame.y) * frame.width + x + bounds.x - frame.x);
      const o = i * patch.channels;
      for (let c = 0; c < colours; c++) {
        const contrast = Math.max(LEGIBLE, 1 - spec.amount * (1 - gain[c]));
        const v = (known.image[from + c] - spec.amount * offset[c]) / contrast;
        patch.data[o + c] = Math.round((Math.min(255, Math.max(0, v)) * top) / 255);
      }
      patch.data[o + colours] = top;
    }
  }
  return { patch, reason: `${sure ? '' : 'Not sure. '}Lifted: ${over.told}. Detail beneath is kept.` };
}

/** Lift: takes off what lies over the picture and lets it through, by a model of what it does to tone and colour. */
export const lift: RepairMethod<LiftSpec> = {
  method: 'lift',
  shift: (spec, dx, dy) => ({
    ...spec,
    cover: shiftShapes(spec.cover, dx, dy),
    avoid: shiftShapes(spec.avoid, dx, dy),
  }),
  readBox: (spec, width, height) => lookedAt(spec.cover, { width, height }),
  render,
};
