// Steps of zoom that run smoothly, each frame on the way to where it ends.

/** How long a step takes, ms. */
const TAKES = 140;

/** @typedef {import('./transform.js').View} View */

/**
 * Between two views: the scale grows evenly, and what is under the fixed point stays there.
 * @param {View} from
 * @param {View} to
 * @param {number} part 0 to 1
 * @returns {View}
 */
export function between(from, to, part) {
  const scale = from.scale * (to.scale / from.scale) ** part;
  // Of the way between the two corners, as far as the scale has come.
  const done = to.scale === from.scale ? part : (scale - from.scale) / (to.scale - from.scale);
  return { scale, x: from.x + (to.x - from.x) * done, y: from.y + (to.y - from.y) * done };
}

/**
 * @param {(view: View) => void} show
 * @returns {(from: View, to: View) => void} goes there; a newer step takes the place of one under way
 */
export function glider(show) {
  const still = window.matchMedia('(prefers-reduced-motion: reduce)');
  let frame = 0;
  return (from, to) => {
    cancelAnimationFrame(frame);
    if (still.matches) { show(to); return; }
    const begun = performance.now();
    const step = (now) => {
      const part = Math.min(1, (now - begun) / TAKES);
      show(part < 1 ? between(from, to, part) : to);
      if (part < 1) frame = requestAnimationFrame(step);
    };
    frame = requestAnimationFrame(step);
  };
}
