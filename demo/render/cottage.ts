import { drawOver, expose, save } from './image.ts';
import { cells, clamp, fbm, hash, mix, noise, step } from './noise.ts';

const WIDTH = 3060;
const HEIGHT = 2100;
const BORDER = 120;

/** Grey value (0…1) of the scene at a place; u and v run over the picture inside the print's border, in px. */
function scene(u: number, v: number): number {
  const w = WIDTH - 2 * BORDER;
  const h = HEIGHT - 2 * BORDER;
  const groundLine = h * 0.74 + 26 * (fbm(u * 0.004, 3, 3, 5) - 0.5);
  // Sky: nearly white in old plates, a hint of cloud.
  let grey = 0.86 - 0.12 * (v / h) + 0.1 * (fbm(u * 0.0016, v * 0.003, 5, 11) - 0.5);
  // Hill behind.
  const hill = h * 0.5 - 190 * Math.exp(-(((u - w * 0.86) / 620) ** 2)) + 60 * (fbm(u * 0.003, 1, 4, 14) - 0.5);
  if (v > hill) grey = 0.5 + 0.2 * (fbm(u * 0.02, v * 0.03, 5, 15) - 0.5) - 0.06 * ((v - hill) / 300);

  const left = w * 0.14;
  const right = w * 0.8;
  const eaves = h * 0.43;
  const ridge = h * 0.2;
  const chimney = (cx: number) => Math.abs(u - cx) < 74 && v > ridge - 130 && v < ridge + 40;
  const roofEdge = ((v - ridge) / (eaves - ridge)) * 120;
  if ([left + 150, right - 160].some(chimney)) {
    const c = cells(u / 46, v / 26, 31);
    grey = (0.42 + 0.2 * c.id) * (c.next - c.near < 0.12 ? 0.72 : 1) * (u % 1 < 2 ? 1 : 1);
    if (v < ridge - 104) grey = 0.6;
  }
  if (v > ridge && v < eaves + 16 && u > left - 60 - roofEdge + 120 - 60 && u < right + 60 + roofEdge - 60) {
    const row = Math.floor(v / 21);
    const shift = (row & 1) * 0.5 + 0.2 * hash(row, 1, 33);
    const col = Math.floor(u / 44 + shift);
    const inRow = (v / 21) % 1;
    const inCol = (((u / 44 + shift) % 1) + 1) % 1;
    grey = 0.3 + 0.17 * (hash(row, col, 34) - 0.5) + 0.06 * (fbm(u * 0.05, v * 0.08, 3, 35) - 0.5);
    if (inRow > 0.86) grey *= 0.62;
    else if (inRow < 0.12) grey *= 1.18;
    if (inCol < 0.05) grey *= 0.7;
    grey += 0.1 * step(0.62, 0.75, fbm(u * 0.012, v * 0.02, 4, 36));
    if (v < ridge + 12) grey = 0.46;
  }
  const wallFoot = groundLine + 8;
  if (u > left && u < right && v > eaves + 14 && v < wallFoot) {
    const c = cells(u / 62 + 0.4 * noise(u * 0.01, v * 0.01, 41), v / 38, 42);
    const mortar = step(0.16, 0.05, c.next - c.near);
    const face = 0.5 + 0.26 * (c.id - 0.5) + 0.12 * (fbm(u * 0.06, v * 0.06, 4, 43) - 0.5);
    grey = mix(face, 0.68 + 0.06 * noise(u * 0.2, v * 0.2, 44), mortar);
    grey *= mix(0.5, 1, step(0, 74, v - eaves - 14));
    grey *= 0.93 + 0.14 * (fbm(u * 0.003, v * 0.004, 3, 45) - 0.5);
    if (u > right - 46 || u < left + 46)
      grey = mix(grey, 0.63 + 0.1 * (hash(Math.floor(v / 58), u > w / 2 ? 1 : 2, 46) - 0.5), 0.7);
  }
  const windowAt = (cx: number, top: number, ww: number, hh: number) => {
    if (Math.abs(u - cx) > ww / 2 + 26 || v < top - 26 || v > top + hh + 34) return;
    if (Math.abs(u - cx) <= ww / 2 && v >= top && v <= top + hh) {
      const a = (u - cx + ww / 2) / ww;
      const b = (v - top) / hh;
      const bar =
        Math.abs(a - 0.5) < 0.022 || Math.abs(b - 0.5) < 0.02 || a < 0.045 || a > 0.955 || b < 0.03 || b > 0.97;
      const curtain = (a < 0.28 || a > 0.72) && b < 0.9;
      grey = bar
        ? 0.82
        : curtain
          ? 0.6 + 0.16 * Math.sin(a * 90)
          : 0.12 + 0.24 * step(0.4, 0.7, fbm(u * 0.008, v * 0.012, 3, 50)) * (1 - b);
      if (v < top + 16) grey *= 0.6;
    } else if (v > top + hh) grey = 0.74 - 0.18 * ((v - top - hh) / 34);
    else grey = 0.7 + 0.08 * (noise(u * 0.1, v * 0.1, 51) - 0.5);
  };
  windowAt(w * 0.27, h * 0.5, 190, 240);
  windowAt(w * 0.66, h * 0.5, 190, 240);
  const doorX = w * 0.465;
  if (Math.abs(u - doorX) < 128 && v > h * 0.475 && v < wallFoot) {
    const inner = Math.abs(u - doorX) < 102 && v > h * 0.475 + 26;
    const plank = ((((u - doorX + 102) / 34) % 1) + 1) % 1;
    grey = inner ? (plank < 0.07 ? 0.13 : 0.25 + 0.07 * (fbm(u * 0.12, v * 0.006, 4, 55) - 0.5)) : 0.72;
    if (inner && Math.hypot(u - doorX - 78, v - h * 0.62) < 11) grey = 0.75;
    if (v < h * 0.475 + 40) grey *= 0.66;
  }
  if (v > groundLine) {
    const near = (v - groundLine) / (h - groundLine);
    const path = step(0.5, 0.36, Math.abs(u - doorX - 30 * near * Math.sin(near * 3)) / (150 + 520 * near));
    const lawn =
      0.34 +
      0.3 * (fbm((u * 0.02) / (0.4 + near), v * 0.06, 5, 60) - 0.5) +
      0.24 * (noise(u * 0.16, v * 0.06, 61) - 0.5);
    const gravel = 0.62 + 0.18 * (fbm(u * 0.08, v * 0.16, 4, 63) - 0.5) + 0.1 * (noise(u * 0.35, v * 0.4, 64) - 0.5);
    grey = mix(lawn, gravel, path);
    grey *= mix(0.62, 1, step(0, 60, v - groundLine));
    const bloom = cells(u / 30, v / 22, 66);
    if (path < 0.2 && bloom.near < 0.17 && bloom.id > 0.6 && near < 0.5) grey = 0.78;
  }
  // A dry-stone wall in front, left and right of the path.
  const wallTop = h * 0.885 + 14 * (noise(u * 0.02, 4, 70) - 0.5);
  if (v > wallTop && Math.abs(u - doorX - 20) > 330) {
    const c = cells(u / 96 + 0.5 * noise(u * 0.006, v * 0.01, 71), (v - wallTop) / 54, 72);
    grey =
      (0.36 +
        0.26 * (c.id - 0.5) +
        0.16 * (fbm(u * 0.05, v * 0.05, 4, 73) - 0.5) +
        0.2 * (0.5 - (((v - wallTop) / 54) % 1))) *
      step(0.02, 0.2, c.next - c.near);
    if (v < wallTop + 12) grey += 0.12;
  }
  return clamp(grey, 0.02, 0.98);
}

/** The print before anything happened to it: grey scene, paper border, uneven tone. */
function print(): Buffer {
  const out = Buffer.alloc(WIDTH * HEIGHT * 3);
  for (let y = 0, i = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++, i += 3) {
      const inside = x >= BORDER && y >= BORDER && x < WIDTH - BORDER && y < HEIGHT - BORDER;
      const paper = 0.9 + 0.035 * (fbm(x * 0.02, y * 0.02, 5, 80) - 0.5) + 0.02 * (noise(x * 0.4, y * 0.4, 81) - 0.5);
      let v = paper;
      if (inside) {
        const dx = (x / WIDTH - 0.5) * 2;
        const dy = (y / HEIGHT - 0.5) * 2;
        const lens = 1 - 0.16 * (dx * dx + dy * dy);
        v =
          0.1 + 0.72 * scene(x - BORDER, y - BORDER) ** 1.12 * lens * (0.97 + 0.06 * fbm(x * 0.003, y * 0.003, 3, 83));
      }
      out[i] = 255 * clamp(v * 1.0 + 0.035);
      out[i + 1] = 255 * clamp(v * 0.955 + 0.018);
      out[i + 2] = 255 * clamp(v * 0.855);
    }
  }
  return out;
}

/** Dust, hairs, scratches, a crease, a torn corner, a stain and a note in ink. */
function damage(): string {
  const r = (n: number, s: number) => hash(n, s, 200);
  const dust = Array.from({ length: 240 }, (_, n) => {
    const size = 1.4 + 6.5 * r(n, 3) ** 3;
    const light = r(n, 4) > 0.28;
    return `<ellipse cx="${r(n, 1) * WIDTH}" cy="${r(n, 2) * HEIGHT}" rx="${size}" ry="${size * (0.6 + 0.5 * r(n, 5))}" fill="${light ? '#fbf8ef' : '#2b2620'}" opacity="${0.75 + 0.25 * r(n, 6)}"/>`;
  }).join('');
  const hairs = Array.from({ length: 9 }, (_, n) => {
    const x = 200 + r(n, 11) * (WIDTH - 500);
    const y = 200 + r(n, 12) * (HEIGHT - 500);
    const d = (k: number) => (r(n, k) - 0.5) * 260;
    return `<path d="M ${x} ${y} c ${d(13)} ${d(14)} ${d(15)} ${d(16)} ${d(17) * 1.3} ${d(18) * 1.3}" stroke="${n % 3 ? '#f6f2e6' : '#2a241c'}" stroke-width="${2 + r(n, 19) * 1.6}" fill="none"/>`;
  }).join('');
  const scratches = [
    [520, 230, 700, 1560],
    [1880, 160, 1822, 1180],
    [2460, 700, 2585, 1900],
    [1210, 1260, 1750, 1318],
  ]
    .map(
      ([a, b, c, d], n) =>
        `<path d="M ${a} ${b} Q ${(a + c) / 2 + 14} ${(b + d) / 2} ${c} ${d}" stroke="#f7f3e8" stroke-width="${2.2 + n * 0.5}" stroke-dasharray="${n === 1 ? '220 14 90 6' : 'none'}" fill="none" opacity=".9"/>`,
    )
    .join('');
  let zig = `M -10 ${HEIGHT * 0.575}`;
  for (let x = 0; x <= WIDTH + 30; x += 30) zig += ` L ${x} ${HEIGHT * 0.575 - x * 0.021 + (r(x, 21) - 0.5) * 9}`;
  const crease = `<path d="${zig}" stroke="#fffdf4" stroke-width="26" opacity=".2" fill="none"/><path d="${zig}" stroke="#f9f5ea" stroke-width="7" fill="none" opacity=".95"/><path d="${zig}" transform="translate(0 7)" stroke="#4a4034" stroke-width="3" fill="none" opacity=".4"/>`;
  let tear = `M ${WIDTH + 5} ${HEIGHT - 470}`;
  for (let k = 0; k <= 22; k++)
    tear += ` L ${WIDTH - k * 23 + (r(k, 23) - 0.5) * 26} ${HEIGHT - 470 + k * 21 + (r(k, 24) - 0.5) * 30}`;
  tear += ` L ${WIDTH - 520} ${HEIGHT + 5} L ${WIDTH + 5} ${HEIGHT + 5} Z`;
  const torn = `<path d="${tear}" fill="#fffdf6" transform="translate(-13 -11)"/><path d="${tear}" fill="#3f4347"/>`;
  const stain = `<radialGradient id="st"><stop offset="0" stop-color="#7a5a2c" stop-opacity=".16"/><stop offset=".86" stop-color="#7a5a2c" stop-opacity=".24"/><stop offset=".95" stop-color="#5f431d" stop-opacity=".42"/><stop offset="1" stop-color="#5f431d" stop-opacity="0"/></radialGradient><ellipse cx="2330" cy="440" rx="270" ry="235" fill="url(#st)"/>`;
  const ink = `<g font-family="DejaVu Serif, serif" font-style="italic" fill="#27324e" opacity=".88"><text x="330" y="${HEIGHT - 250}" font-size="84" transform="rotate(-2 330 ${HEIGHT - 250})">Keeper’s cottage, Skerrow</text></g>`;
  return stain + dust + hairs + scratches + crease + ink + torn;
}

/** Renders the scanned print, whole and damaged, with the same grain in both. */
export async function renderCottage(folder: string): Promise<void> {
  const whole = print();
  const spoilt = await drawOver(whole, WIDTH, HEIGHT, damage(), 0.4);
  const scan = { lens: 1.1, noise: 4.2, seed: 33, grain: 0.55 };
  await save(await expose(whole, WIDTH, HEIGHT, scan), WIDTH, HEIGHT, `${folder}/cottage-truth.jpg`, 93, 600);
  await save(await expose(spoilt, WIDTH, HEIGHT, scan), WIDTH, HEIGHT, `${folder}/cottage.jpg`, 93, 600);
}
