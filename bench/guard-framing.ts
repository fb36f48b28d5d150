// The part of the guard about canvases: what is drawn out stays beside the subject, and what is filled goes on in its tone.
import { goWay, onCanvas } from '../src/core/plan/frame-ways.ts';
import { boxShape } from '../src/core/mask/shapes.ts';
import { boxOf, createRaster, type Raster } from '../src/core/raster/raster.ts';
import { renderRepair } from '../src/core/repair/registry.ts';

/** A backdrop with weave and a fall-off of light, and a subject before it. */
function backdrop(): Raster {
  const out = createRaster(300, 240, 3, 8);
  let seed = 3;
  for (let y = 0, i = 0; y < 240; y++)
    for (let x = 0; x < 300; x++, i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const light = 150 - 0.0012 * ((x - 150) ** 2 + (y - 120) ** 2);
      const own = Math.hypot(x - 150, y - 130) < 34 ? 210 : light + 4 * Math.sin(x / 2) * Math.sin(y / 2);
      out.data.fill(Math.round(own + ((seed >> 12) % 100) / 25), 3 * i, 3 * i + 3);
    }
  return out;
}

type Note = (what: string, value: number, bound: number) => unknown;

export function framing(_least: Note, most: Note): void {
  const picture = backdrop();
  const canvas = { x: -40, y: 0, width: 380, height: 240 };
  const subject = [boxShape({ x: 112, y: 92, width: 76, height: 76 })];
  const out = onCanvas(picture, canvas);
  goWay(out, boxOf(picture), { way: 'stretch', canvas, subject, by: 'smooth' }, { render: renderRepair });
  let differ = 0;
  for (let y = 92; y < 168; y++)
    for (let x = 112; x < 188; x++)
      for (let c = 0; c < 3; c++)
        if (out.data[3 * (y * 380 + x + 40) + c] !== picture.data[3 * (y * 300 + x) + c]) differ++;
  most('frame: samples of the subject changed by drawing out', differ, 0);
  const filled = onCanvas(picture, canvas);
  goWay(filled, boxOf(picture), { way: 'extend', canvas, subject, by: 'smooth' }, { render: renderRepair });
  let [sum, n] = [0, 0];
  for (let y = 0; y < 240; y += 4)
    for (const x of [6, 20, 345, 370]) {
      const light = 150 - 0.0012 * ((x - 40 - 150) ** 2 + (y - 120) ** 2);
      sum += Math.abs(filled.data[3 * (y * 380 + x)] - light - 2);
      n++;
    }
  most('frame: tone of filled sides off, levels', sum / n, 4);
}
