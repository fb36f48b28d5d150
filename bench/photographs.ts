// Photographs of today, clean and 1 to 20 megapixels large, out of Debian's packages of backgrounds: old prints have dust of
// their own, these have none; and smaller ones out of those of image libraries. They are fetched once by apt and stay out of the repository.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type { Raster } from '../src/core/raster/raster.ts';
import { readPicture } from './planted.ts';

/** Where each package keeps its pictures. */
const PACKAGES = {
  'mate-backgrounds': 'usr/share/backgrounds/mate/nature',
  'lomiri-wallpapers-16.04': 'usr/share/backgrounds',
  'lomiri-wallpapers-20.04': 'usr/share/backgrounds',
  'plasma-workspace-wallpapers': 'usr/share/wallpapers',
  'opencv-doc': 'usr/share/doc/opencv-doc/examples',
  'python3-skimage': 'usr/lib/python3/dist-packages/skimage/data',
  'python3-sklearn': 'usr/lib/python3/dist-packages/sklearn/datasets/images',
};
type Package = keyof typeof PACKAGES;

const plasma = (...names: string[]) =>
  names.map((name) => ({
    name,
    from: 'plasma-workspace-wallpapers' as Package,
    file: `${name}/contents/images/2560x1600.jpg`,
  }));
const of = (from: Package, ...names: string[]) => names.map((name) => ({ name, from, file: `${name}.jpg` }));

/** The clean photographs that forests are fitted on. */
export const CLEAN_FITTED = [
  ...of('mate-backgrounds', 'Aqua', 'Dune', 'Garden', 'Storm', 'TwoWings', 'Wood'),
  ...of('lomiri-wallpapers-20.04', 'Kleiber_by_Lukas_Baubkus'),
  ...of('lomiri-wallpapers-16.04', 'Picture_1A_by_freespace', 'Wine_by_Jakkub_Mede'),
  ...of('lomiri-wallpapers-16.04', 'aitzgorri_by_Aitzol_Berasategi', 'friends_by_Aitzol_Berasategi'),
  ...of('lomiri-wallpapers-16.04', 'life_by_Aitzol_Berasategi', 'sunset_by_Aitzol_Berasategi'),
  ...plasma('BytheWater', 'ColorfulCups', 'EveningGlow', 'Grey', 'OneStandsOut'),
];
/** Those that nothing is fitted on. */
export const CLEAN_MEASURED = [
  ...of('mate-backgrounds', 'Blinds', 'FreshFlower', 'GreenMeadow', 'LadyBird', 'YellowFlower'),
  ...of('lomiri-wallpapers-16.04', 'Bridge_by_Sander_Klootwijk', 'Dragonfly_by_Bolly', 'free_by_Peter_Nerlich'),
  ...of('lomiri-wallpapers-16.04', 'greentock_by_Peter_Nerlich', 'picosdeeuropa_by_Aitzol_Berasategi'),
  ...of('lomiri-wallpapers-16.04', 'seeding_by_Clements_Engelhardt'),
  ...plasma('ColdRipple', 'DarkestHour', 'FallenLeaf', 'Kite', 'Path'),
];
/** Photographs of buildings and skylines that reference libraries ship as examples, small; and one of the sea. */
export const EXAMPLES = [
  { name: 'home', from: 'opencv-doc' as Package, file: 'reg/home.png' },
  ...of('opencv-doc', 'data/leuvenA', 'data/building'),
  { name: 'camera', from: 'python3-skimage' as Package, file: 'camera.png' },
  ...of('python3-skimage', 'rocket'),
  { name: 'motorcycle', from: 'python3-skimage' as Package, file: 'motorcycle_left.png' },
  ...of('python3-sklearn', 'china'),
  ...of('lomiri-wallpapers-20.04', 'Infinite-Sea_by_Aury88'),
];
export type CleanPhotograph = (typeof CLEAN_FITTED)[number];

const FOLDER = fileURLToPath(new URL('../.photographs/', import.meta.url));

/** The folder of a package, downloaded and unpacked when it is not there yet. */
function folderOf(from: Package): string {
  const folder = `${FOLDER}${from}/`;
  if (!existsSync(folder)) {
    mkdirSync(FOLDER, { recursive: true });
    const download = () => execFileSync('apt-get', ['download', from], { cwd: FOLDER, stdio: 'ignore' });
    try {
      try {
        download();
      } catch {
        execFileSync('apt-get', ['update'], { stdio: 'ignore' });
        download();
      }
    } catch {
      throw new Error(`${from} could not be fetched: run this on Debian, as root, with its packages in reach.`);
    }
    const archive = readdirSync(FOLDER).find((f) => f.startsWith(`${from}_`) && f.endsWith('.deb'))!;
    execFileSync('dpkg-deb', ['-x', `${FOLDER}${archive}`, folder]);
  }
  return `${folder}${PACKAGES[from]}/`;
}

/** Reads a clean photograph, made smaller when it has more than so many megapixels. */
export async function cleanPhotograph({ from, file }: CleanPhotograph, megapixels = Infinity): Promise<Raster> {
  const path = folderOf(from) + file;
  const whole = await readPicture(path);
  const share = (megapixels * 1e6) / (whole.width * whole.height);
  return share < 1 ? readPicture(path, Math.round(whole.width * Math.sqrt(share))) : whole;
}
