import { GUIDE_LINES, guidePath } from './guide-lines.ts';

test('lines lie over the frame wherever it begins: on its thirds, through its corners, through its middle', () => {
  const frame = { x: -300, y: 60, width: 900, height: 600 };
  expect(guidePath(frame, 'thirds')).toBe('M0 60L0 660M300 60L300 660M-300 260L600 260M-300 460L600 460');
  expect(guidePath(frame, 'diagonals')).toBe('M-300 60L600 660M-300 660L600 60');
  expect(guidePath(frame, 'centre lines')).toBe('M150 60L150 660M-300 360L600 360');
  expect(guidePath(frame, 'no lines')).toBe('');
  expect(GUIDE_LINES[0]).toBe('thirds');
});
