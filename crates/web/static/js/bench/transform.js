// From millimetres to the pixels of the bench and back. Pure: tested under Node.

/** Pixels of a screen that are 1 mm at true scale (96 to the inch, CSS Values 3). */
export const TRUE_SCALE = 96 / 25.4;

/** @typedef {{scale: number, x: number, y: number}} View pixels per mm; where mm (0, 0) lies, px */

/** What fitting fills of the bench. */
export const FILLS = 0.85;

/** @returns {View} the design in the middle, filling its share of the bench */
export function fit(widthMm, heightMm, widthPx, heightPx) {
  const scale = Math.max(1e-3, FILLS * Math.min(widthPx / widthMm, heightPx / heightMm));
  return { scale, x: (widthPx - widthMm * scale) / 2, y: (heightPx - heightMm * scale) / 2 };
}

/** Zooms by a factor while the point under (px, py) stays where it is. @returns {View} */
export function zoomAt(view, factor, px, py) {
  const scale = Math.min(2000, Math.max(0.01, view.scale * factor));
  const k = scale / view.scale;
  return { scale, x: px - (px - view.x) * k, y: py - (py - view.y) * k };
}

/** @returns {[number, number]} mm under a pixel */
export function toMm(view, px, py) {
  return [(px - view.x) / view.scale, (py - view.y) / view.scale];
}

/**
 * Distance of the ruler's labelled marks, in its unit: 1, 2 or 5 times a power of ten, so that
 * labels stand at least `room` px apart.
 */
export function rulerStep(pxPerUnit, room) {
  const least = room / pxPerUnit;
  const power = 10 ** Math.floor(Math.log10(least));
  return [1, 2, 5, 10].map((n) => n * power).find((step) => step >= least * (1 - 1e-9));
}
