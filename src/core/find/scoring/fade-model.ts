/**
 * How a colour differs from its ground: dust and scratches fade to white or black, things of the picture have colours.
 * @param own RGB from 0 to 1
 */
export function fadeModel(own: readonly number[], ground: readonly number[], light: boolean) {
  let [dot, room, all] = [0, 0, 0];
  for (let c = 0; c < 3; c++) {
    const d = own[c] - ground[c];
    const to = (light ? 1 : 0) - ground[c];
    dot += d * to;
    room += to * to;
    all += d * d;
  }
  return {
    coloured: Math.sqrt(Math.max(0, 1 - (dot * dot) / Math.max(1e-9, room * all))),
    opacity: Math.min(1, dot / Math.max(1e-9, room)),
  };
}
