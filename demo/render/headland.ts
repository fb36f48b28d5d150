import { createScene, drawOver, expose, save, toBytes, type Scene } from './image.ts';
import { clamp, fbm, hash, mix, noise, step } from './noise.ts';

const WIDTH = 3240;
const HEIGHT = 2160;
const HORIZON = 0.5 * HEIGHT;
const FOCAL = 2500;
const EYE = 15;
const SUN = { x: -0.55, y: 0.62, z: -0.56 };

/** Height of the ground in m above the sea at x (right) and z (away). */
function ground(x: number, z: number): number {
  const meadow = 12.9 - 0.016 * z * step(10, 60, z) + 0.9 * (fbm(x * 0.06, z * 0.05, 4, 3) - 0.5) * step(0, 30, z);
  const shore = step(-58, -14, x + 0.12 * z + 10 * (fbm(x * 0.05, z * 0.03, 3, 8) - 0.5));
  const near = mix(-3, meadow, shore) * (1 - step(75, 130, z + 30 * (noise(x * 0.04, 2, 5) - 0.5)));
  const dx = (x - 46) / 62;
  const dz = (z - 215) / 74;
  const hill = 30 * Math.exp(-(dx * dx + dz * dz) * 1.15) + 9 * Math.exp(-(((x - 90) / 60) ** 2 + dz * dz));
  const rock = (fbm(x * 0.045, z * 0.045, 6, 21) - 0.5) * 12 * step(2, 12, hill);
  const far =
    26 * Math.exp(-(((x + 190) / 160) ** 2 + ((z - 900) / 130) ** 2)) * (0.8 + 0.5 * fbm(x * 0.012, z * 0.012, 4, 30));
  return Math.max(near, hill + rock - 3.5, far - 4);
}

function sky(x: number, y: number): [number, number, number] {
  const up = clamp((HORIZON - y) / HORIZON, 0.002);
  const base: [number, number, number] = [
    mix(0.62, 0.1, up ** 0.7),
    mix(0.7, 0.26, up ** 0.75),
    mix(0.76, 0.55, up ** 0.8),
  ];
  const depth = 1 / (0.09 + up);
  const wx = (x / WIDTH - 0.5) * depth * 2.3;
  const wy = depth * 1.7;
  const warp = fbm(wx * 0.7, wy * 0.9, 4, 60) * 1.4;
  const density = step(0.5, 0.78, fbm(wx + warp, wy * 1.5 + warp, 7, 70, 0.55) + 0.07 * (1 - up));
  const lit = clamp(0.62 + 1.3 * (fbm(wx + warp + 0.06, wy * 1.5 + warp - 0.09, 6, 70, 0.55) - 0.5));
  const cloud = [0.9 * lit + 0.1, 0.87 * lit + 0.12, 0.84 * lit + 0.15];
  return [0, 1, 2].map((c) => mix(base[c], cloud[c], density * 0.92)) as [number, number, number];
}

function grass(x: number, z: number, slope: number): [number, number, number] {
  const patch = fbm(x * 0.35, z * 0.3, 4, 40);
  const dry = step(0.42, 0.68, fbm(x * 0.12, z * 0.09, 4, 45));
  const fine = 0.5 * noise(x * 190, z * 42, 57) + 0.5 * noise(x * 430, z * 90, 58);
  const blade =
    0.42 +
    0.75 * noise(x * 26, z * 7, 50) * (0.55 + 0.8 * noise(x * 70, z * 16, 51)) +
    0.55 * fine * (0.4 + noise(x * 9, z * 3, 59));
  const light = blade * (0.55 + 0.75 * patch) * slope;
  const bloom = z < 70 && hash(Math.floor(x * 70), Math.floor(z * 18), 52) > 0.9994 - 0.001 * patch ? 1 : 0;
  const g: [number, number, number] = [
    mix(0.105, 0.27, dry) * light,
    mix(0.15, 0.235, dry) * light,
    mix(0.035, 0.085, dry) * light,
  ];
  return bloom ? [0.55 * slope, 0.5 * slope, 0.42 * slope] : g;
}

function stone(x: number, y: number, z: number, light: number): [number, number, number] {
  const bands = 0.7 + 0.5 * fbm(x * 0.25, y * 1.6 + z * 0.1, 5, 90);
  const crack = step(0.3, 0.46, fbm(x * 0.8 + y, y * 0.5 + z * 0.7, 5, 95));
  const v = bands * (0.45 + 0.55 * crack) * light;
  const moss = step(0.55, 0.7, fbm(x * 0.2, z * 0.2, 4, 97));
  return [mix(0.29, 0.17, moss) * v, mix(0.255, 0.19, moss) * v, mix(0.21, 0.09, moss) * v];
}

function paintLand(scene: Scene, depth: Float32Array): void {
  const { rgb } = scene;
  for (let px = 0; px < WIDTH; px++) {
    const u = (px + 0.5 - WIDTH / 2) / FOCAL;
    let top = HEIGHT;
    let z = 3.2;
    while (z < 9000 && top > 0) {
      const x = u * z;
      let h = ground(x, z);
      const sea = h <= 0;
      const tuft = sea
        ? 0
        : (0.16 * noise(x * 9, z * 3, 55) * noise(x * 31, z * 9, 56) +
            0.07 * noise(x * 95, z * 24, 68) * noise(x * 40, z * 11, 69)) *
          (z < 120 ? 1 : 120 / z);
      const wave = sea ? 0.2 * (fbm(x * 0.25, z * 0.09, 4, 61) - 0.5) : 0;
      h = sea ? wave : h + tuft;
      const sy = HORIZON + ((EYE - h) / z) * FOCAL;
      if (sy < top) {
        let c: [number, number, number];
        if (sea) {
          const ripple = fbm(x * 0.55, z * 0.16, 5, 62) - 0.5 + 0.5 * (noise(x * 2.2, z * 0.7, 64) - 0.5);
          const grazing = clamp(1 - (EYE / Math.max(EYE, z)) * 3.2 + 1.1 * ripple);
          const surf = step(-0.55, 0.05, ground(x, z) + 0.9 * (fbm(x * 0.4, z * 0.25, 4, 66) - 0.72));
          const glint = step(0.34, 0.46, ripple) * 0.25 * step(0.1, 0.9, clamp(0.9 - Math.abs(u + 0.25) * 2));
          c = [
            mix(0.028, 0.36, grazing * 0.75) + glint,
            mix(0.075, 0.46, grazing * 0.75) + glint,
            mix(0.105, 0.54, grazing * 0.75) + glint,
          ];
          c = c.map((v) => mix(v, 0.78, surf * step(0.42, 0.6, fbm(x * 1.3, z * 0.8, 4, 67)))) as [
            number,
            number,
            number,
          ];
        } else {
          const e = 0.35 + z * 0.004;
          const nx = (ground(x - e, z) - ground(x + e, z)) / (2 * e);
          const nz = (ground(x, z - e) - ground(x, z + e)) / (2 * e);
          const n = 1 / Math.hypot(nx, 1, nz);
          const light = 0.3 + 1.25 * clamp((nx * SUN.x + SUN.y + nz * SUN.z) * n);
          const steep = step(
            0.62,
            0.95,
            Math.hypot(nx, nz) + 0.35 * (fbm(x * 0.2, z * 0.2, 3, 99) - 0.5) + step(3.2, 0.6, h) * 0.7,
          );
          const a = grass(x, z, light * (0.75 + 1.5 * tuft));
          const b = stone(x, h, z, light);
          c = [0, 1, 2].map((k) => mix(a[k], b[k], steep)) as [number, number, number];
        }
        const haze = 1 - Math.exp(-z / 1400);
        const air = [0.6, 0.68, 0.74];
        const end = Math.max(0, Math.ceil(sy));
        for (let y = Math.min(HEIGHT, Math.ceil(top)) - 1; y >= end; y--) {
          const o = (y * WIDTH + px) * 3;
          for (let k = 0; k < 3; k++) rgb[o + k] = mix(c[k], air[k], haze);
          depth[y * WIDTH + px] = z;
        }
        top = Math.min(top, sy);
      }
      const above = Math.max(1.2, EYE - h);
      z += clamp(((z * z) / (above * FOCAL)) * 0.9, 0.0012 * z, z < 1200 ? 2.2 : 60);
    }
  }
}

const TOWER = { x: 40, z: 208, foot: 24.4, height: 31, low: 4.1, high: 2.5 };

function paintTower(scene: Scene, depth: Float32Array): void {
  const { x: tx, z, foot, height, low, high } = TOWER;
  const toX = (wx: number) => WIDTH / 2 + (wx / z) * FOCAL;
  const toY = (wy: number) => HORIZON + ((EYE - wy) / z) * FOCAL;
  const put = (px: number, py: number, c: number[]) => {
    if (px < 0 || py < 0 || px >= WIDTH || py >= HEIGHT) return;
    const i = py * WIDTH + px;
    if (depth[i] < z - 6 && depth[i] > 0) return;
    depth[i] = z;
    for (let k = 0; k < 3; k++) scene.rgb[i * 3 + k] = mix(c[k], [0.6, 0.68, 0.74][k], 0.13);
  };
  for (let py = Math.floor(toY(foot + height + 10)); py < toY(foot - 3); py++) {
    const wy = EYE - ((py + 0.5 - HORIZON) / FOCAL) * z - foot;
    for (let px = Math.floor(toX(tx - 14)); px < toX(tx + 9); px++) {
      const wx = ((px + 0.5 - WIDTH / 2) / FOCAL) * z - tx;
      const radius =
        wy < height
          ? mix(low, high, clamp(wy / height) ** 0.8)
          : wy < height + 0.7
            ? 3.7
            : wy < height + 4.6
              ? 1.9
              : wy < height + 7
                ? 1.95 * Math.sqrt(clamp(1 - (wy - height - 4.6) / 2.4))
                : wy < height + 8.6
                  ? 0.1
                  : 0;
      const n = radius > 0 ? wx / radius : 2;
      if (Math.abs(n) < 1) {
        const nz = -Math.sqrt(1 - n * n);
        const light = 0.26 + 0.98 * clamp(n * SUN.x + 0.12 - nz * 0.5);
        const streak =
          0.82 +
          0.3 * (fbm(Math.asin(n) * 6, wy * 0.12, 5, 110) - 0.5) +
          0.16 * (noise(Math.asin(n) * 30, wy * 0.7, 111) - 0.5);
        let c: number[];
        if (wy < height) {
          const band = wy > 11 && wy < 19.5;
          const course = Math.abs(((wy / 0.95) % 1) - 0.5) > 0.46 ? 0.9 : 1;
          const paint = band ? [0.46, 0.085, 0.05] : [0.76, 0.74, 0.69];
          c = paint.map((p) => p * light * streak * course);
          const window = [4.5, 14.5, 24].some((w) => Math.abs(wy - w) < 0.75 && Math.abs(wx + 0.4) < 0.38);
          if (window) c = [0.03, 0.035, 0.04];
        } else if (wy < height + 0.7) c = [0.12 * light, 0.12 * light, 0.115 * light];
        else if (wy < height + 4.6) {
          const lattice =
            Math.abs(((((Math.asin(n) * 4 + (wy - height) * 0.9) % 1) + 1) % 1) - 0.5) < 0.06 ||
            Math.abs(((((Math.asin(n) * 4 - (wy - height) * 0.9) % 1) + 1) % 1) - 0.5) < 0.06;
          const glass = 0.25 + 0.45 * clamp(1 - Math.abs(n + 0.45) * 2.4);
          c = lattice ? [0.07, 0.07, 0.07] : [glass * 0.86, glass * 0.9, glass * 0.88];
        } else c = [0.34 * light, 0.07 * light, 0.05 * light];
        put(px, py, c);
      } else if (wy > height + 0.7 && wy < height + 2 && Math.abs(wx) < 3.6) {
        const rail =
          Math.abs(wy - height - 1.9) < 0.07 || Math.abs(wy - height - 1.3) < 0.05 || Math.abs((wx / 0.6) % 1) < 0.12;
        if (rail) put(px, py, [0.1, 0.1, 0.1]);
      }
      // The store house beside the tower.
      const hx = wx + 9;
      if (Math.abs(hx) < 4.4 && wy > -1.5 && wy < 3.2 && Math.abs(n) >= 1) {
        const joint = noise(wx * 3.1, wy * 4.3, 120);
        const door = Math.abs(hx - 1.2) < 0.6 && wy < 1.9;
        put(
          px,
          py,
          door
            ? [0.05, 0.1, 0.1]
            : [0.62 * (0.8 + 0.25 * joint), 0.6 * (0.8 + 0.25 * joint), 0.55 * (0.8 + 0.25 * joint)],
        );
      } else if (wy >= 3.2 && wy < 5.8 && Math.abs(hx) < 4.9 - (wy - 3.2) * 0.55 && Math.abs(n) >= 1) {
        const slate = 0.75 + 0.4 * hash(Math.floor(wx * 2.4), Math.floor(wy * 4), 121);
        put(px, py, [0.115 * slate, 0.125 * slate, 0.14 * slate]);
      }
    }
  }
}

/** Wires on two poles, a sign, litter on the grass, and what lay on the sensor. */
function clutter(): { sharp: string; dust: string } {
  const wires: string[] = [];
  const pole = { x: 640, top: 500, foot: 1905 };
  const right = { x: 3420, top: 215 };
  [0, 46, 96, 150].forEach((drop, i) => {
    const y0 = pole.top + 40 + drop * 0.9;
    const y1 = right.top + drop * 1.5;
    wires.push(
      `<path d="M ${pole.x} ${y0} Q ${(pole.x + right.x) / 2} ${(y0 + y1) / 2 + 330 + i * 9} ${right.x} ${y1}" stroke="#23241f" stroke-width="${4.6 - i * 0.3}" fill="none"/>`,
    );
    wires.push(
      `<path d="M -40 ${y0 - 190 + i * 10} Q 300 ${y0 + 5} ${pole.x} ${y0}" stroke="#262721" stroke-width="${5.2 - i * 0.3}" fill="none"/>`,
    );
  });
  const arms = [40, 130]
    .map(
      (d) =>
        `<path d="M ${pole.x - 92} ${pole.top + d} L ${pole.x + 92} ${pole.top + d - 6}" stroke="#3c3226" stroke-width="17"/>`,
    )
    .join('');
  const cups = [-80, -30, 30, 80]
    .map((d) => `<rect x="${pole.x + d - 7}" y="${pole.top + 12}" width="14" height="24" rx="5" fill="#b9c2ba"/>`)
    .join('');
  const post = `<linearGradient id="w"><stop offset="0" stop-color="#6d5b45"/><stop offset=".45" stop-color="#4c3e2e"/><stop offset="1" stop-color="#2a221a"/></linearGradient>
    <path d="M ${pole.x - 15} ${pole.top - 30} L ${pole.x + 15} ${pole.top - 30} L ${pole.x + 24} ${pole.foot} L ${pole.x - 24} ${pole.foot} Z" fill="url(#w)"/>`;
  const sign = `<g transform="translate(2330 1640) rotate(-2.2)">
    <path d="M 60 190 L 62 430 M 330 190 L 328 424" stroke="#57493a" stroke-width="17"/>
    <rect x="0" y="0" width="392" height="206" rx="7" fill="#e3c23c"/><rect x="13" y="13" width="366" height="180" rx="4" fill="none" stroke="#2b2a22" stroke-width="6"/>
    <text x="196" y="92" font-family="DejaVu Sans, sans-serif" font-weight="bold" font-size="55" text-anchor="middle" fill="#26251f">CLIFF PATH</text>
    <text x="196" y="158" font-family="DejaVu Sans, sans-serif" font-weight="bold" font-size="55" text-anchor="middle" fill="#26251f">CLOSED</text></g>`;
  const shadow = (x: number, y: number, rx: number, ry: number) =>
    `<ellipse cx="${x}" cy="${y}" rx="${rx}" ry="${ry}" fill="#10140a" opacity=".55"/>`;
  const litter = `${shadow(1290, 1962, 66, 15)}<path d="M 1238 1950 l 26 -44 l 34 12 l 30 -18 l 18 36 l -24 30 l -40 -6 l -30 8 Z" fill="#ece9df"/><path d="M 1264 1908 l 20 34 l 40 -20 M 1284 1942 l -8 20" stroke="#b9b6ab" stroke-width="4" fill="none"/>
    ${shadow(1712, 2050, 60, 14)}<g transform="rotate(-14 1700 2030)"><rect x="1652" y="2002" width="100" height="50" rx="14" fill="#b5322a"/><rect x="1652" y="2006" width="100" height="13" fill="#e98c80" opacity=".7"/><ellipse cx="1752" cy="2027" rx="11" ry="24" fill="#c9ccc9"/></g>
    ${shadow(980, 2075, 84, 14)}<g transform="rotate(8 980 2060)"><path d="M 900 2042 h 96 q 14 0 22 8 h 40 v 18 h -40 q -8 8 -22 8 h -96 Z" fill="#3d6b3c" opacity=".93"/><path d="M 906 2048 h 88" stroke="#a9d0a4" stroke-width="5"/></g>
    ${shadow(2120, 1905, 40, 9)}<path d="M 2086 1898 l 16 -26 l 40 6 l 16 20 l -30 10 Z" fill="#dfe4ea"/>
    ${shadow(1500, 1840, 24, 6)}<rect x="1482" y="1822" width="34" height="17" rx="5" fill="#d8dde0" transform="rotate(12 1500 1830)"/>`;
  const spots = [
    [420, 240, 22],
    [1490, 130, 17],
    [2790, 430, 24],
    [1150, 420, 14],
  ]
    .map(
      ([x, y, r], i) =>
        `<radialGradient id="s${i}"><stop offset="0" stop-color="#1d2430" stop-opacity=".34"/><stop offset=".62" stop-color="#1d2430" stop-opacity=".26"/><stop offset="1" stop-color="#1d2430" stop-opacity="0"/></radialGradient><circle cx="${x}" cy="${y}" r="${r}" fill="url(#s${i})"/>`,
    )
    .join('');
  return { sharp: `${wires.join('')}${post}${arms}${cups}${sign}${litter}`, dust: spots };
}

/** Renders the headland, clean and cluttered, with the same noise in both. */
export async function renderHeadland(folder: string): Promise<void> {
  const scene = createScene(WIDTH, HEIGHT);
  const depth = new Float32Array(WIDTH * HEIGHT);
  for (let y = 0, o = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++, o += 3) {
      if (y < HORIZON + 30) scene.rgb.set(sky(x, y), o);
    }
  }
  paintLand(scene, depth);
  paintTower(scene, depth);
  const clean = await toBytes(scene);
  const { sharp, dust } = clutter();
  const spoilt = await drawOver(await drawOver(clean, WIDTH, HEIGHT, sharp, 0.5), WIDTH, HEIGHT, dust);
  const camera = { lens: 0.75, noise: 5.2, seed: 9 };
  await save(await expose(clean, WIDTH, HEIGHT, camera), WIDTH, HEIGHT, `${folder}/headland-truth.jpg`, 93, 300);
  await save(await expose(spoilt, WIDTH, HEIGHT, camera), WIDTH, HEIGHT, `${folder}/headland.jpg`, 93, 300);
}
