import { survey } from '../src/core/find/survey.ts';
import { readPicture } from './planted.ts';
for (const n of ['cottage','cottage-truth']) {
const print = await readPicture(`demo/pictures/${n}.jpg`);
const finds = survey(print, { finders: ['curves'] });
console.log(n, finds.filter((f) => f.score >= 0.5).length);
for (const f of finds.filter((f) => f.length > 100 && f.score > 0.2)) console.log(f.kind, JSON.stringify(f.box), f.score.toFixed(2), f.length.toFixed(0), f.contrast.toFixed(0));
}
