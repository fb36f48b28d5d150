// Minimum cuts after Boykov & Kolmogorov 2004 on graphs whose nodes have up to four neighbours. A node's edges lie at 4 × node + direction; the opposite direction of k is k ^ 1.

const FREE: u8 = 0;
const SOURCE: u8 = 1;
export const SINK: u8 = 2;
const NONE: i32 = -1;
const TERMINAL: i32 = -2;
const ORPHAN: i32 = -3;

export let edges: usize = 0;
export let caps: usize = 0;
export let terms: usize = 0;
let trees: usize = 0;
let parents: usize = 0;
let stamps: usize = 0;
let depths: usize = 0;
let queue: usize = 0;
let queued: usize = 0;
let orphans: usize = 0;
let most: i32 = 0;
let head: i32 = 0;
let length: i32 = 0;
let time: i32 = 0;
let waiting: i32 = 0;
let firstOrphan: i32 = 0;

/** Bytes that {@link flowOpen} needs for a graph of so many nodes. */
export function flowBytes(nodes: i32): i32 {
  return nodes * 4 * (4 + 4 + 1 + 1 + 1 + 1 + 1 + 2) + nodes * 2 + 64;
}

/** Lays a graph of at most `nodes` nodes out at `ptr`. Its edges, capacities and terminals begin at the returned addresses. */
export function flowOpen(ptr: usize, nodes: i32): void {
  const n = <usize>nodes;
  most = nodes;
  edges = ptr;
  caps = edges + 16 * n;
  terms = caps + 16 * n;
  parents = terms + 4 * n;
  stamps = parents + 4 * n;
  depths = stamps + 4 * n;
  queue = depths + 4 * n;
  orphans = queue + 4 * n;
  trees = orphans + 8 * n;
  queued = trees + n;
}

// @ts-ignore: decorator
@inline
function edge(i: i32, k: i32): i32 {
  return load<i32>(edges + (<usize>(4 * i + k) << 2));
}
// @ts-ignore: decorator
@inline
function cap(i: i32, k: i32): i32 {
  return load<i32>(caps + (<usize>(4 * i + k) << 2));
}
// @ts-ignore: decorator
@inline
function addCap(i: i32, k: i32, by: i32): i32 {
  const p = caps + (<usize>(4 * i + k) << 2);
  const v = load<i32>(p) + by;
  store<i32>(p, v);
  return v;
}
// @ts-ignore: decorator
@inline
export function get(base: usize, i: i32): i32 {
  return load<i32>(base + (<usize>i << 2));
}
// @ts-ignore: decorator
@inline
export function put(base: usize, i: i32, v: i32): void {
  store<i32>(base + (<usize>i << 2), v);
}
// @ts-ignore: decorator
@inline
export function tree(i: i32): u8 {
  return load<u8>(trees + <usize>i);
}

function push(i: i32): void {
  if (load<u8>(queued + <usize>i)) return;
  store<u8>(queued + <usize>i, 1);
  let tail = head + length++;
  if (tail >= most) tail -= most;
  put(queue, tail, i);
}

function pop(): i32 {
  while (length) {
    const i = get(queue, head);
    if (++head == most) head = 0;
    length--;
    store<u8>(queued + <usize>i, 0);
    if (tree(i) != FREE) return i;
  }
  return NONE;
}

function orphan(i: i32): void {
  put(parents, i, ORPHAN);
  // A ring of twice as many places as nodes: a node waits at most once at a time.
  let tail = firstOrphan + waiting++;
  if (tail >= 2 * most) tail -= 2 * most;
  put(orphans, tail, i);
}

/** Sends as much as possible from `s` through its edge towards `k` to `t`. */
function augment(s: i32, k: i32, t: i32): i32 {
  let least = cap(s, k);
  let i = s;
  let to = get(parents, i);
  while (to != TERMINAL) {
    const p = edge(i, to);
    least = min(least, cap(p, to ^ 1));
    i = p;
    to = get(parents, i);
  }
  least = min(least, get(terms, i));
  i = t;
  to = get(parents, i);
  while (to != TERMINAL) {
    least = min(least, cap(i, to));
    i = edge(i, to);
    to = get(parents, i);
  }
  least = min(least, -get(terms, i));

  addCap(s, k, -least);
  addCap(t, k ^ 1, least);
  i = s;
  to = get(parents, i);
  while (to != TERMINAL) {
    const p = edge(i, to);
    addCap(i, to, least);
    if (addCap(p, to ^ 1, -least) == 0) orphan(i);
    i = p;
    to = get(parents, i);
  }
  put(terms, i, get(terms, i) - least);
  if (get(terms, i) == 0) orphan(i);
  i = t;
  to = get(parents, i);
  while (to != TERMINAL) {
    const p = edge(i, to);
    addCap(p, to ^ 1, least);
    if (addCap(i, to, -least) == 0) orphan(i);
    i = p;
    to = get(parents, i);
  }
  put(terms, i, get(terms, i) + least);
  if (get(terms, i) == 0) orphan(i);
  return least;
}

/** Steps from a node to its tree's terminal, or −1 when it hangs from an orphan. */
function depth(start: i32): i32 {
  let steps = 0;
  let i = start;
  for (;;) {
    const to = get(parents, i);
    if (get(stamps, i) == time && to >= TERMINAL) {
      steps += get(depths, i);
      break;
    }
    steps++;
    if (to == TERMINAL) {
      put(stamps, i, time);
      put(depths, i, 1);
      break;
    }
    if (to < 0) return -1;
    i = edge(i, to);
  }
  let left = steps;
  let j = start;
  while (get(stamps, j) != time) {
    put(stamps, j, time);
    put(depths, j, left--);
    j = edge(j, get(parents, j));
  }
  return steps;
}

function adopt(i: i32): void {
  const own = tree(i);
  let best = -1;
  let nearest = i32.MAX_VALUE;
  for (let k = 0; k < 4; k++) {
    const j = edge(i, k);
    if (j < 0 || tree(j) != own || get(parents, j) == NONE) continue;
    if ((own == SOURCE ? cap(j, k ^ 1) : cap(i, k)) <= 0) continue;
    const steps = depth(j);
    if (steps >= 0 && steps < nearest) {
      nearest = steps;
      best = k;
    }
  }
  if (best >= 0) {
    put(parents, i, best);
    put(stamps, i, time);
    put(depths, i, nearest + 1);
    return;
  }
  put(parents, i, NONE);
  store<u8>(trees + <usize>i, FREE);
  for (let k = 0; k < 4; k++) {
    const j = edge(i, k);
    if (j < 0 || tree(j) != own) continue;
    if ((own == SOURCE ? cap(j, k ^ 1) : cap(i, k)) > 0) push(j);
    const to = get(parents, j);
    if (to >= 0 && edge(j, to) == i) orphan(j);
  }
}

/** Cuts the graph of the first `count` nodes; its capacities are used up. Returns the flow. */
export function flowCut(count: i32): i32 {
  let flow = 0;
  head = length = time = waiting = firstOrphan = 0;
  for (let i = 0; i < count; i++) {
    store<u8>(queued + <usize>i, 0);
    put(stamps, i, 0);
    const t = get(terms, i);
    if (t == 0) {
      store<u8>(trees + <usize>i, FREE);
      put(parents, i, NONE);
      continue;
    }
    store<u8>(trees + <usize>i, t > 0 ? SOURCE : SINK);
    put(parents, i, TERMINAL);
    put(depths, i, 1);
    push(i);
  }
  let at = NONE;
  for (;;) {
    let i = at;
    if (i == NONE || tree(i) == FREE) {
      i = pop();
      if (i == NONE) break;
    }
    at = NONE;
    let met = -1;
    const own = tree(i);
    for (let k = 0; k < 4; k++) {
      const j = edge(i, k);
      if (j < 0) continue;
      if ((own == SOURCE ? cap(i, k) : cap(j, k ^ 1)) <= 0) continue;
      const other = tree(j);
      if (other == FREE) {
        store<u8>(trees + <usize>j, own);
        put(parents, j, k ^ 1);
        put(stamps, j, get(stamps, i));
        put(depths, j, get(depths, i) + 1);
        push(j);
      } else if (other != own) {
        met = k;
        break;
      } else if (get(stamps, j) <= get(stamps, i) && get(depths, j) > get(depths, i)) {
        put(parents, j, k ^ 1);
        put(stamps, j, get(stamps, i));
        put(depths, j, get(depths, i) + 1);
      }
    }
    time++;
    if (met < 0) continue;
    at = i;
    const j = edge(i, met);
    flow += own == SOURCE ? augment(i, met, j) : augment(j, met ^ 1, i);
    while (waiting) {
      const o = get(orphans, firstOrphan);
      if (++firstOrphan == 2 * most) firstOrphan = 0;
      waiting--;
      adopt(o);
    }
  }
  return flow;
}

/** Side of a node after a cut: 0 where nothing tells, 1 source, 2 sink. */
export function flowSide(i: i32): i32 {
  return tree(i);
}
