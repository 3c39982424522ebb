// Lengths as people type them: 6mm, 1/4in, 0.25", 1 1/2 in, 2,5. Pure: tested under Node.

const UNITS = { mm: 1, cm: 10, in: 25.4, '"': 25.4, '″': 25.4 };
const NUMBER = '[+-]?(?:\\d+(?:[.,]\\d*)?|[.,]\\d+)';
const LENGTH = new RegExp(`^\\s*(?:(${NUMBER})\\s+)?(${NUMBER})(?:\\s*/\\s*(${NUMBER}))?\\s*(mm|cm|in|"|″)?\\s*$`, 'i');
const figure = (text) => Number(text.replace(',', '.'));

/**
 * @param {string} text
 * @param {string} unit what a figure without one is in: `mm` or `in`
 * @returns {number} mm; NaN where it is no length
 */
export function millimetres(text, unit) {
  const found = LENGTH.exec(text);
  if (!found) return NaN;
  const [, whole, part, below, named] = found;
  // Two figures are a whole and a fraction.
  if (whole && !below) return NaN;
  const fraction = figure(part) / (below ? figure(below) : 1);
  const sum = whole ? figure(whole) + Math.sign(figure(whole) || 1) * fraction : fraction;
  const mm = sum * UNITS[named?.toLowerCase() ?? unit];
  return Number.isFinite(mm) ? mm : NaN;
}
