import { existsSync } from 'node:fs';
import { copyFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { fillRequestSchema } from '../contract/api.ts';
import type { FaultKind } from '../contract/document.ts';
import type { NewJob } from '../contract/studio.ts';
import type { Shape } from '../core/mask/shapes.ts';
import { takeIn } from './services/intake.ts';
import { newId } from '../contract/ids.ts';
import type { Studio } from './studio.ts';

interface DemoFault {
  kind: FaultKind;
  shapes: Shape[];
  fill: boolean;
}

const spot = (x: number, y: number, size: number, fill: boolean): DemoFault => ({
  kind: 'speck',
  shapes: [{ op: 'add', kind: 'brush', points: [[x, y]], size }],
  fill,
});

/** A wire as it sags between two poles: a quadratic curve sampled to a strand. */
function wire(a: [number, number], b: [number, number], c: [number, number], size: number, fill: boolean): DemoFault {
  const points = Array.from({ length: 33 }, (_, i): [number, number] => {
    const t = i / 32;
    const at = (k: 0 | 1) => (1 - t) ** 2 * a[k] + 2 * t * (1 - t) * b[k] + t * t * c[k];
    return [at(0), at(1)];
  });
  return { kind: 'strand', shapes: [{ op: 'add', kind: 'strand', points, size }], fill };
}

const box = (kind: FaultKind, x: number, y: number, width: number, height: number, fill: boolean): DemoFault => ({
  kind,
  shapes: [{ op: 'add', kind: 'box', x, y, width, height }],
  fill,
});

const DUST: DemoFault[] = [
  spot(420, 240, 46, true),
  spot(1490, 130, 38, true),
  spot(2790, 430, 50, true),
  spot(1150, 420, 32, true),
];

const CLIENT = 'Skerrow Light Trust';

/** The made-up jobs a new studio begins with; every repair in them is really computed. */
const JOBS: Array<{ job: NewJob; pictures: string[]; faults: DemoFault[]; delivered?: boolean }> = [
  {
    job: {
      name: 'Brass lamp, square',
      client: CLIENT,
      brief: 'For the poster: square, the lamp on the left third. The canvas behind it has scuffs; see to those first.',
      policy: 'creative',
      longSideMm: 300,
      viewingMm: null,
      donors: 'search',
    },
    pictures: ['lamp.jpg'],
    faults: [],
  },
  {
    job: {
      name: 'The bay, in three frames',
      client: CLIENT,
      brief:
        'For the wall behind the desk: as wide as it goes. Taken by hand from the pier; join them and see to the edges.',
      policy: 'creative',
      longSideMm: 1200,
      viewingMm: null,
      donors: 'search',
    },
    pictures: ['bay-1.jpg', 'bay-2.jpg', 'bay-3.jpg'],
    faults: [],
  },
  {
    job: {
      name: 'Headland, postcard',
      client: CLIENT,
      brief: 'Clean the sky: the camera had dust on its sensor. Leave the rest.',
      policy: 'documentary',
      longSideMm: 148,
      viewingMm: null,
      donors: 'search',
    },
    pictures: ['headland.jpg'],
    faults: DUST,
    delivered: true,
  },
  {
    job: {
      name: 'Keeper’s cottage, old print',
      client: CLIENT,
      brief: 'Scan of the only print. Bring it back: dust, scratches, the crease and the torn corner. Keep its tone.',
      policy: 'restoration',
      longSideMm: 400,
      viewingMm: null,
      donors: 'search',
    },
    pictures: ['cottage.jpg'],
    faults: [],
  },
  {
    job: {
      name: 'Keeper’s garden, through the fence',
      client: CLIENT,
      brief: 'The garden was locked. Take the fence away; the sprays in front of it stay.',
      policy: 'creative',
      longSideMm: 400,
      viewingMm: null,
      donors: 'search',
    },
    pictures: ['garden.jpg'],
    faults: [],
  },
  {
    job: {
      name: 'Headland, exhibition panel',
      client: CLIENT,
      brief: 'The headland as visitors should see it: without wires, pole, sign and litter.',
      policy: 'creative',
      longSideMm: 900,
      viewingMm: null,
      donors: 'search',
    },
    pictures: ['headland.jpg'],
    faults: [
      ...DUST,
      wire([640, 581], [2030, 772], [3420, 284], 6, true),
      wire([640, 675], [2030, 915], [3420, 440], 6, false),
      wire([640, 540], [2030, 708], [3420, 215], 6, false),
      wire([640, 626], [2030, 841], [3420, 359], 6, false),
      box('object', 1220, 1894, 140, 92, true),
      box('object', 1634, 1972, 150, 100, false),
      box('lettering', 2318, 1618, 420, 236, false),
      {
        kind: 'object',
        shapes: [
          {
            op: 'add',
            kind: 'outline',
            points: [
              [2072, 1916],
              [2082, 1880],
              [2110, 1862],
              [2160, 1876],
              [2174, 1908],
              [2140, 1922],
            ],
          },
        ],
        fill: false,
      },
    ],
  },
];

/** Fills an empty studio with the demo jobs. Repairs are rendered in the background. */
export async function addDemo(studio: Studio, folder: string): Promise<void> {
  const { store, pictures, editing, incoming } = studio;
  if ((await store.listJobs()).length > 0) return;
  for (const [n, { job, pictures: names, faults, delivered }] of JOBS.entries()) {
    console.log(`Making the demo studio: job ${n + 1} of ${JOBS.length}, ${job.name}…`);
    if (!names.every((name) => existsSync(join(folder, name)))) continue;
    const jobId = await store.createJob(job);
    const ids: string[] = [];
    for (const name of names) {
      const path = join(incoming, newId());
      await copyFile(join(folder, name), path);
      ids.push(await takeIn(studio, jobId, name, path));
      await rm(path, { force: true });
    }
    const [id] = ids;
    for (const fault of faults) await editing.edit(id, { type: 'addFault', kind: fault.kind, shapes: fault.shapes });
    const marked = await pictures.use(id, ({ document }) => document.faults);
    for (const i of [...faults.keys()].filter((n) => faults[n].fill)) {
      const request = fillRequestSchema.parse({ faultIds: [marked[i].id] });
      await editing.fill(id, request, undefined, 'spare');
    }
    if (delivered) await store.changeJob(jobId, { delivered: true });
  }
}
