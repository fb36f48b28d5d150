import { shiftBox } from '../raster/raster.ts';
import type { RepairMethod } from './method.ts';
import type { GivenSpec } from './spec.ts';

/** Given: the pixels of a layer that came with the picture's file. They depend on nothing beneath. */
export const given: RepairMethod<GivenSpec> = {
  method: 'given',
  shift: (spec, dx, dy) => ({ ...spec, box: shiftBox(spec.box, dx, dy) }),
  readBox: () => ({ x: 0, y: 0, width: 0, height: 0 }),
  render(beneath, spec) {
    const patch = beneath.given?.(spec.index);
    if (!patch) throw new Error('The file of this picture has no such layer.');
    return { patch, reason: 'As it came with the file.' };
  },
};
