// Expansion moves over the graph opened with `flowOpen`, on the field opened with `fieldOpen`.
import { distance, known, unreadable } from './field';
import { caps, edges, flowCut, get, put, SINK, terms, tree } from './flow';

const PARTS: f32 = 8;
const NEVER: i32 = 1 << 24;

let places: usize = 0;
let costs: usize = 0;
let around: usize = 0;
let labels: usize = 0;
let changes: usize = 0;
let pixels: i32 = 0;
let evened: f32 = 0;
let dear: f32 = 0;

/**
 * Names what {@link expand} works on beside the field: where each of `count` covered pixels comes from by each move (move × count +
 * pixel, −1 outside) and what that costs; its neighbours among the covered pixels; its present move; room for `count` floats.
 * What two moves put differently beyond `free` units of features costs `more` times itself on top.
 */
export function layoutOpen(
  placesPtr: usize, costsPtr: usize, neighboursPtr: usize, labelsPtr: usize, changesPtr: usize, count: i32, free: f32, more: f32,
): void {
  places = placesPtr;
  costs = costsPtr;
  around = neighboursPtr;
  labels = labelsPtr;
  changes = changesPtr;
  pixels = count;
  evened = PARTS * free;
  dear = more;
}

/** Distance of two places by their features, in parts. */
function differ(a: i32, b: i32): f32 {
  if (a == b) return 0;
  const readA = a >= 0 && load<u8>(known + <usize>a) != 0;
  const readB = b >= 0 && load<u8>(known + <usize>b) != 0;
  if (!readA || !readB) return readA || readB ? PARTS * unreadable : 0;
  const parts = PARTS * distance(a, b);
  return parts + dear * max<f32>(0, parts - evened);
}

// @ts-ignore: decorator
@inline
function between(n: i32, a: i32, b: i32): f32 {
  return a == b ? 0 : differ(get(places, a * pixels + n), get(places, b * pixels + n));
}

// @ts-ignore: decorator
@inline
function whole(v: f32): i32 {
  return <i32>nearest<f32>(v);
}

/** Energy of the present moves, in parts. */
export function layoutEnergy(): f64 {
  let sum: f64 = 0;
  for (let n = 0; n < pixels; n++) {
    const own = get(labels, n);
    sum += <f64>get(costs, own * pixels + n);
    for (let k = 0; k <= 2; k += 2) {
      const q = get(around, 4 * n + k);
      if (q < 0) continue;
      const other = get(labels, q);
      if (other != own) sum += <f64>(between(n, own, other) + between(q, own, other));
    }
  }
  return sum;
}

/** One expansion move over the graph opened with {@link flowOpen}: every pixel keeps its move or takes `m`. Returns how many took it. */
export function expand(m: i32): i32 {
  const count = pixels;
  const own = m * count;
  memory.fill(edges, 0xff, <usize>count << 4);
  memory.fill(caps, 0, <usize>count << 4);
  for (let n = 0; n < count; n++) {
    const label = get(labels, n);
    store<f32>(changes + (<usize>n << 2), between(n, label, m));
    put(terms, n, label == m ? 0 : get(costs, own + n) - get(costs, label * count + n));
  }
  for (let n = 0; n < count; n++) {
    const a = get(labels, n);
    const freeN = a != m && get(costs, own + n) < NEVER;
    const changeN = load<f32>(changes + (<usize>n << 2));
    for (let k = 0; k <= 2; k += 2) {
      const q = get(around, 4 * n + k);
      if (q < 0) continue;
      const b = get(labels, q);
      const freeQ = b != m && get(costs, own + q) < NEVER;
      if (!freeN && !freeQ) continue;
      const changeQ = load<f32>(changes + (<usize>q << 2));
      const same = a == b;
      const keep: f32 = same ? 0 : between(n, a, b) + between(q, a, b);
      const takesN = changeQ + (same ? changeN : between(n, m, b));
      const takesQ = changeN + (same ? changeQ : between(q, m, a));
      if (freeN && freeQ) {
        put(terms, n, get(terms, n) + whole(takesN - keep));
        put(terms, q, get(terms, q) - whole(takesN));
        put(edges, 4 * n + k, q);
        put(edges, 4 * q + (k ^ 1), n);
        put(caps, 4 * n + k, max(0, whole(takesN + takesQ - keep)));
      } else if (freeN) {
        put(terms, n, get(terms, n) + whole(b == m ? -keep : takesN - keep));
      } else {
        put(terms, q, get(terms, q) + whole(a == m ? -keep : takesQ - keep));
      }
    }
  }
  for (let n = 0; n < count; n++) {
    if (get(labels, n) == m) put(terms, n, 0);
    else if (get(costs, own + n) >= NEVER) put(terms, n, NEVER);
  }
  flowCut(count);
  let taken = 0;
  for (let n = 0; n < count; n++) {
    if (get(labels, n) == m || get(costs, own + n) >= NEVER || tree(n) != SINK) continue;
    put(labels, n, m);
    taken++;
  }
  return taken;
}
