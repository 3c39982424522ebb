// Figures that are typed of what is picked, as affine maps. Pure: tested under Node.

/** @typedef {[number, number, number, number]} Box x0, y0, x1, y1, mm */

/**
 * @param {string} side `x`, `y`, `w`, `h`, or `turn` in degrees
 * @param {number} value what was typed, mm or degrees
 * @param {Box} box
 * @returns {number[]} the six figures of the map that makes it so
 */
export function typed(side, value, [x0, y0, x1, y1]) {
  const turn = (value * Math.PI) / 180;
  const [sin, cos] = [Math.sin(turn), Math.cos(turn)];
  const [cx, cy] = [(x0 + x1) / 2, (y0 + y1) / 2];
  const [sx, sy] = [value / (x1 - x0), value / (y1 - y0)];
  return {
    x: [1, 0, 0, 1, value - x0, 0], y: [1, 0, 0, 1, 0, value - y0],
    w: [sx, 0, 0, 1, x0 - sx * x0, 0], h: [1, 0, 0, sy, 0, y0 - sy * y0],
    turn: [cos, sin, -sin, cos, cx - cos * cx + sin * cy, cy - sin * cx - cos * cy],
  }[side];
}

/**
 * Left for right, or top for bottom, within a box.
 * @param {boolean} across
 * @param {Box} box
 * @returns {number[]}
 */
export const flipped = (across, [x0, y0, x1, y1]) => (across ? [-1, 0, 0, 1, x0 + x1, 0] : [1, 0, 0, -1, 0, y0 + y1]);
