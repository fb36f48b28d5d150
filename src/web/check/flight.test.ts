import { flightOver, placeOn } from './flight.ts';

const CANVAS = { x: -100, y: 50, width: 3000, height: 2000 };
const VIEW = { width: 900, height: 600 };

describe('a flight over a picture', () => {
  const flight = flightOver(CANVAS, VIEW);

  test('shows every px of it', () => {
    const seen = new Uint8Array(30 * 20);
    for (let flown = 0; flown <= flight.length; flown += 40) {
      const { x, y } = placeOn(flight, flown);
      for (let v = 0; v < 20; v++)
        for (let u = 0; u < 30; u++) {
          const [px, py] = [CANVAS.x + 100 * u + 50, CANVAS.y + 100 * v + 50];
          if (Math.abs(px - x) <= VIEW.width / 2 && Math.abs(py - y) <= VIEW.height / 2) seen[v * 30 + u] = 1;
        }
    }
    expect(seen.every((s) => s === 1)).toBe(true);
    expect(flight.rows[0]).toBe(CANVAS.y + 300);
    expect(flight.rows.at(-1)).toBe(CANVAS.y + CANVAS.height - 300);
  });

  test('never leaves it, and never jumps', () => {
    let last = placeOn(flight, 0);
    for (let flown = 10; flown <= flight.length; flown += 10) {
      const place = placeOn(flight, flown);
      expect(Math.hypot(place.x - last.x, place.y - last.y)).toBeLessThan(21);
      expect(place.x).toBeGreaterThanOrEqual(CANVAS.x + 450);
      expect(place.x).toBeLessThanOrEqual(CANVAS.x + CANVAS.width - 450);
      last = place;
    }
    expect(last.row).toBe(flight.rows.length - 1);
    expect(placeOn(flight, flight.length + 500).x).toBeCloseTo(placeOn(flight, flight.length).x, 6);
  });

  test('a picture smaller than the view is one place', () => {
    const small = flightOver({ x: 0, y: 0, width: 200, height: 100 }, VIEW);
    expect(small).toEqual({ rows: [50], from: 100, to: 100, length: 0 });
    expect(placeOn(small, 0)).toEqual({ x: 100, y: 50, row: 0 });
  });
});
