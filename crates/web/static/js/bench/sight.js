// How a bench is looked at just now, for the tools that work on it.

/** @type {WeakMap<Element, import('./transform.js').View>} */
const views = new WeakMap();

/**
 * @param {Element} canvas
 * @param {import('./transform.js').View} view how it is looked at from now on
 */
export function see(canvas, view) {
  views.set(canvas, view);
}

/**
 * @param {Element} canvas
 * @returns {number} mm in a pixel of the screen; 1 before anything was drawn
 */
export function mmPerPixel(canvas) {
  return 1 / (views.get(canvas)?.scale ?? 1);
}

/**
 * @param {Element} canvas
 * @returns {?import('./transform.js').View} how it is looked at; `null` before anything was drawn
 */
export function viewOf(canvas) {
  return views.get(canvas) ?? null;
}
