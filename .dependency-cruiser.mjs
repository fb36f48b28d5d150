// Which room may look into which. Within a ladder a room sees only those beneath it; nothing may go in a circle.
const CORE = [
  ['kernels'],
  ['raster'],
  ['mask', 'tone', 'faults'],
  ['check', 'find', 'repair', 'frame'],
  ['plan', 'chain'],
];
const SERVER = [
  ['store', 'images'],
  ['deliver'],
  ['work'],
  ['background'],
  ['pictures'],
  ['studio'],
  ['services'],
  ['routes'],
  ['http'],
];
const WEB = [
  ['theme'],
  ['lib'],
  ['ui'],
  ['viewer'],
  ['worklist'],
  ['bench', 'deliver', 'intake', 'jobs', 'survey'],
  ['app'],
];

const path = (part, rooms) => `^src/${part}/(${rooms.join('|')})(/|\\.tsx?$)`;
const ladder = (part, steps) =>
  steps.slice(0, -1).map((rooms, n) => ({
    name: `${part}: ${rooms.join(', ')} look no further up`,
    severity: 'error',
    from: { path: path(part, rooms), pathNot: '\\.test\\.tsx?$' },
    to: { path: path(part, steps.slice(n + 1).flat()) },
  }));

/** @type {import('dependency-cruiser').IConfiguration} */
export default {
  forbidden: [
    { name: 'no circle', severity: 'error', from: {}, to: { circular: true } },
    ...ladder('core', CORE),
    ...ladder('server', SERVER),
    ...ladder('web', WEB),
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: 'src/core/kernels/assembly' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
  },
};
