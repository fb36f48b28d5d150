import { join } from 'node:path';
import sharp from 'sharp';
import { drawOver, expose, save } from './image.ts';
import { clamp, fbm, hash, mix, noise, step } from './noise.ts';

/** The whole of it, as wide as the format asks for; and what the camera took in, which stood too near. */
const SIZE = 3000;
const TAKEN = { left: 300, top: 0, width: 2000, height: SIZE };
/** Where the backdrop meets the table, and where the lamp stands. */
const TABLE = 2310;
const LAMP = { x: 1000, foot: 2560 };

const r = (n: number, s: number) => hash(n, s, 700);

/** Light on the backdrop: from the upper left, less to the corners, in stops. */
function lightAt(x: number, y: number): number {
  const u = (x - 1150) / SIZE;
  const v = (y - 1000) / SIZE;
  return 2 ** (-1.9 * (u * u + 0.9 * v * v) - 0.25 * u);
}

/** A painted canvas with its weave, and a table of boards in front of it. */
function ground(): Buffer {
  const out = Buffer.alloc(SIZE * SIZE * 3);
  for (let y = 0, i = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++, i += 3) {
      const light = lightAt(x, y);
      let c: number[];
      if (y < TABLE) {
        const wander = 2.2 * noise(x / 260, y / 260, 701);
        const mottle = fbm(x / 520 + wander * 0.2, y / 460, 5, 702) - 0.5;
        const cloth = fbm(x / 90, y / 80, 3, 703) - 0.5;
        const weft = Math.sin((2 * Math.PI * (x + 3 * noise(x / 60, y / 240, 704))) / 6.2);
        const warp = Math.sin((2 * Math.PI * (y + 3 * noise(x / 240, y / 60, 705))) / 6.2);
        const thread = 0.03 * weft * (0.6 + 0.8 * noise(x / 40, y / 9, 706)) + 0.03 * warp * (0.6 + 0.8 * noise(x / 9, y / 40, 707)); // prettier-ignore
        const tone = (1 + 0.55 * mottle + 0.16 * cloth + thread) * light;
        // It darkens where it hangs down behind the table.
        const foot = 1 - 0.28 * step(TABLE - 130, TABLE, y);
        c = [0.44 * tone * foot, 0.43 * tone * foot, 0.37 * tone * foot * (1 + 0.12 * mottle)];
      } else {
        const near = (y - TABLE) / (SIZE - TABLE);
        const z = 1 / (0.55 + near);
        const across = (x - SIZE / 2) * z;
        const board = Math.floor(near * 3.2 + 0.0001 * across);
        const edge = Math.abs(near * 3.2 - Math.round(near * 3.2));
        const grain = fbm(across / 190 + 7 * board, near * 46 + 3 * board, 4, 710 + board) - 0.5;
        const fine = fbm(across / 60, near * 220, 2, 715) - 0.5;
        const tone =
          (0.9 + 0.5 * grain + 0.2 * fine + 0.12 * (r(board, 3) - 0.5)) *
          light *
          (1 - 0.55 * (1 - step(0, 0.012, edge)));
        const rim = mix(0.5, 1, step(0, 14, y - TABLE));
        c = [0.33 * tone * rim, 0.235 * tone * rim, 0.15 * tone * rim];
      }
      for (let k = 0; k < 3; k++) out[i + k] = 255 * clamp(c[k] ** (1 / 1.25));
    }
  return out;
}

/** Stops of a gradient across round brass or glass. */
const stops = (list: ReadonlyArray<readonly [number, string]>) =>
  list.map(([at, colour]) => `<stop offset="${at}" stop-color="${colour}"/>`).join('');
const BRASS = stops([
  [0, '#2b1c0a'],
  [0.09, '#6d4a18'],
  [0.22, '#d9a94e'],
  [0.28, '#fff0b8'],
  [0.35, '#cf9a3e'],
  [0.58, '#8a5f22'],
  [0.8, '#4a3010'],
  [0.92, '#8f6a33'],
  [1, '#2a1a08'],
]);
const GLASS = stops([
  [0, 'rgba(225,232,228,0.55)'],
  [0.06, 'rgba(190,198,190,0.16)'],
  [0.2, 'rgba(255,255,250,0.5)'],
  [0.27, 'rgba(210,214,205,0.1)'],
  [0.75, 'rgba(120,122,112,0.1)'],
  [0.93, 'rgba(230,234,228,0.35)'],
  [1, 'rgba(90,92,84,0.5)'],
]);

type Profile = ReadonlyArray<readonly [up: number, half: number]>;

/** Rounds the corners of a line; its ends stay. Source: Chaikin 1974, from memory. */
const rounded = (line: Profile): Profile => [
  line[0],
  ...line.slice(1).flatMap(([up, half], n): Profile => {
    const [before, wide] = line[n];
    return [0.25, 0.75].map((t) => [mix(before, up, t), mix(wide, half, t)] as const);
  }),
  line[line.length - 1],
];

/** A turned piece of brass: half its width at heights above the lamp's foot. */
function turned(corners: Profile): string {
  const profile = rounded(rounded(corners));
  const side = (sign: number) => profile.map(([up, half]) => `${LAMP.x + sign * half} ${LAMP.foot - up}`);
  return `<path d="M ${[...side(-1), ...side(1).reverse()].join(' L ')} Z" fill="url(#brass)"/>`;
}
/** Its upper or lower rim as a thin ellipse. */
const rim = (up: number, half: number, fill = 'url(#rim)') =>
  `<ellipse cx="${LAMP.x}" cy="${LAMP.foot - up}" rx="${half}" ry="${half * 0.13}" fill="${fill}"/>`;

function lamp(): string {
  const defs = `<defs><linearGradient id="brass">${BRASS}</linearGradient><linearGradient id="glass">${GLASS}</linearGradient>
    <linearGradient id="rim"><stop offset="0" stop-color="#5b3d14"/><stop offset=".3" stop-color="#f3d283"/><stop offset="1" stop-color="#4d3413"/></linearGradient></defs>`;
  const frame = [-1, -0.36, 0.36, 1]
    .map((k) => {
      const x = LAMP.x + 236 * k;
      return `<rect x="${x - 8}" y="${LAMP.foot - 1090}" width="16" height="640" fill="${k === -0.36 ? '#e0b35c' : k > 0.5 ? '#4f3513' : '#9a6e2a'}"/>`;
    })
    .join('');
  return `${defs}
    <path d="M ${LAMP.x - 235} ${LAMP.foot - 1230} C ${LAMP.x - 300} ${LAMP.foot - 1790}, ${LAMP.x + 300} ${LAMP.foot - 1790}, ${LAMP.x + 235} ${LAMP.foot - 1230}" fill="none" stroke="#3a270d" stroke-width="24"/>
    <path d="M ${LAMP.x - 235} ${LAMP.foot - 1230} C ${LAMP.x - 300} ${LAMP.foot - 1790}, ${LAMP.x + 300} ${LAMP.foot - 1790}, ${LAMP.x + 235} ${LAMP.foot - 1230}" fill="none" stroke="#b98a3c" stroke-width="9" transform="translate(-4 -3)"/>
    ${rim(0, 300, 'url(#brass)')}
    ${turned([
      [0, 300],
      [46, 300],
      [60, 286],
      [92, 262],
      [118, 270],
      [150, 262],
      [300, 250],
      [360, 214],
      [388, 150],
      [408, 142],
    ])}
    ${turned([
      [404, 150],
      [420, 262],
      [450, 262],
    ])}${rim(450, 262)}
    <rect x="${LAMP.x - 22}" y="${LAMP.foot - 640}" width="44" height="190" fill="url(#brass)"/>
    <ellipse cx="${LAMP.x}" cy="${LAMP.foot - 690}" rx="30" ry="66" fill="#f7e8bd"/><ellipse cx="${LAMP.x - 3}" cy="${LAMP.foot - 672}" rx="15" ry="36" fill="#fffdf2"/>
    <path d="M ${LAMP.x - 214} ${LAMP.foot - 450} L ${LAMP.x - 214} ${LAMP.foot - 1090} L ${LAMP.x + 214} ${LAMP.foot - 1090} L ${LAMP.x + 214} ${LAMP.foot - 450} Z" fill="url(#glass)"/>
    ${frame}
    ${rim(1090, 262, '#3c280d')}
    ${turned([
      [1080, 264],
      [1122, 264],
      [1134, 236],
      [1236, 216],
      [1262, 226],
      [1282, 150],
      [1352, 134],
      [1372, 160],
      [1390, 160],
      [1412, 84],
      [1452, 70],
      [1470, 22],
    ])}
    ${rim(1122, 264)}`;
}

/** Shadow of the lamp on the table and up the backdrop, and where it stands. */
function shadow(): string {
  const { x, foot } = LAMP;
  return `<path d="M ${x - 200} ${foot + 24} C ${x + 300} ${foot + 60}, ${x + 900} ${foot - 40}, ${x + 1250} ${foot - 130} L ${x + 1170} ${foot - 215} C ${x + 800} ${foot - 170}, ${x + 420} ${foot - 120}, ${x + 180} ${foot - 90} Z" fill="rgba(14,9,4,.5)"/>`;
}
const contact = () => `<ellipse cx="${LAMP.x + 20}" cy="${LAMP.foot + 12}" rx="320" ry="48" fill="rgba(8,5,2,.75)"/>`;

/** Scuffs and scratches of years on the canvas: pale rubbed places, long thin lines, a few dark marks. */
function scuffs(): string {
  const out: string[] = [];
  for (let n = 0; n < 26; n++) {
    const x = TAKEN.left + 60 + r(n, 20) * (TAKEN.width - 120);
    const y = 80 + r(n, 21) * (TABLE - 240);
    // Not across the lamp.
    if (Math.abs(x - LAMP.x) < 420 && y > LAMP.foot - 1800) continue;
    const long = 60 + 330 * r(n, 22) ** 2;
    const lean = (r(n, 23) - 0.5) * 2.4;
    const pale = r(n, 24) > 0.25;
    const colour = pale ? `rgba(214,212,200,${(0.35 + 0.3 * r(n, 25)).toFixed(2)})` : 'rgba(30,28,22,.45)';
    const wide = 2.4 + 4.5 * r(n, 26) ** 3;
    out.push(
      `<path d="M ${x.toFixed(0)} ${y.toFixed(0)} q ${(long * 0.4).toFixed(0)} ${(lean * 20).toFixed(0)} ${(long * Math.cos(lean)).toFixed(0)} ${(long * Math.sin(lean)).toFixed(0)}" stroke="${colour}" stroke-width="${wide.toFixed(1)}" stroke-linecap="round" fill="none"/>`,
    );
  }
  // Rubbed places: many short strokes beside each other.
  for (const [x, y, w, h] of [
    [520, 620, 70, 26],
    [1720, 980, 96, 34],
    [1890, 1720, 60, 40],
    [1450, 330, 54, 22],
  ])
    for (let n = 0; n < 90; n++) {
      const [u, v] = [r(n, x) + r(n, x + 1) - 1, r(n, x + 2) + r(n, x + 3) - 1];
      const long = 8 + 26 * r(n, x + 4);
      out.push(
        `<path d="M ${(x + u * w).toFixed(0)} ${(y + v * h).toFixed(0)} l ${long.toFixed(0)} ${(long * 0.4 * (r(n, x + 5) - 0.7)).toFixed(0)}" stroke="rgba(208,206,192,${(0.08 + 0.2 * r(n, x + 6)).toFixed(2)})" stroke-width="${(2 + 5 * r(n, x + 7)).toFixed(1)}" stroke-linecap="round"/>`,
      );
    }
  return out.join('');
}

/** A brass lamp before a painted canvas: the whole as truth; and with scuffs on the canvas, and too narrow for a square. */
export async function renderLamp(folder: string): Promise<void> {
  let set = await drawOver(ground(), SIZE, SIZE, shadow(), 34);
  set = await drawOver(set, SIZE, SIZE, contact(), 16);
  const whole = (bytes: Buffer) => drawOver(bytes, SIZE, SIZE, lamp(), 0.8);
  const film = { lens: 0.7, noise: 5, seed: 720 };
  const truth = await expose(await whole(set), SIZE, SIZE, film);
  await save(truth, SIZE, SIZE, join(folder, 'lamp-truth.jpg'), 92, 300);
  const scuffed = await expose(await whole(await drawOver(set, SIZE, SIZE, scuffs(), 1.1)), SIZE, SIZE, film);
  const taken = await sharp(scuffed, { raw: { width: SIZE, height: SIZE, channels: 3 } })
    .extract(TAKEN)
    .raw()
    .toBuffer();
  await save(taken, TAKEN.width, TAKEN.height, join(folder, 'lamp.jpg'), 92, 300);
}
