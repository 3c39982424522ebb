// The rulers on two sides of the bench, and the measure under the design.
import { rulerStep } from './transform.js';

export const RULER = 22;

/** @param {CanvasRenderingContext2D} c @param {import('./transform.js').View} view */
export function rulers(c, view, width, height, unit, colours) {
  const mmPerUnit = unit === 'in' ? 25.4 : 1;
  const pxPerUnit = view.scale * mmPerUnit;
  const step = rulerStep(pxPerUnit, 56);
  const parts = 4;
  c.fillStyle = colours.ruler;
  c.fillRect(0, 0, width, RULER);
  c.fillRect(0, 0, RULER, height);
  c.strokeStyle = c.fillStyle = colours.soft;
  c.lineWidth = 0.8;
  c.font = '9.5px "Public Sans", sans-serif';
  const label = (value) => String(Number(value.toFixed(6)));
  const along = (origin, length, draw) => {
    const first = Math.floor((RULER - origin) / pxPerUnit / step) * step;
    for (let n = 0; ; n += 1) {
      const value = first + (n * step) / parts;
      const at = origin + value * pxPerUnit;
      if (at > length) return;
      if (at >= RULER) draw(at, n % parts === 0 ? label(value) : null);
    }
  };
  c.beginPath();
  along(view.x, width, (x, text) => {
    c.moveTo(x, text === null ? 17 : 11);
    c.lineTo(x, RULER);
    if (text !== null) c.fillText(text, x + 3, 10);
  });
  along(view.y, height, (y, text) => {
    c.moveTo(text === null ? 17 : 11, y);
    c.lineTo(RULER, y);
    if (text === null || y - 6 - c.measureText(text).width < RULER) return;
    c.save();
    c.translate(10, y - 3);
    c.rotate(-Math.PI / 2);
    c.fillText(text, 0, 0);
    c.restore();
  });
  c.stroke();
  c.fillStyle = colours.ruler;
  c.fillRect(0, 0, RULER, RULER);
  c.fillStyle = colours.soft;
  c.fillText(unit, 6, 14);
}

/** The width, told under the design. */
export function measure(c, view, widthMm, heightMm, text, colours) {
  const [x0, x1] = [view.x, view.x + widthMm * view.scale];
  const y = view.y + heightMm * view.scale + 24;
  // Where there is no room for it under the design, it is not drawn over it.
  if (y + 8 > c.canvas.clientHeight) return;
  c.strokeStyle = colours.soft;
  c.lineWidth = 1;
  c.beginPath();
  c.moveTo(x0, y); c.lineTo(x1, y);
  c.moveTo(x0, y - 6); c.lineTo(x0, y + 6);
  c.moveTo(x1, y - 6); c.lineTo(x1, y + 6);
  c.stroke();
  c.font = '12.5px "Public Sans", sans-serif';
  const half = c.measureText(text).width / 2 + 8;
  const middle = (x0 + x1) / 2;
  c.fillStyle = colours.ground;
  c.fillRect(middle - half, y - 9, 2 * half, 18);
  c.fillStyle = colours.ink;
  c.fillText(text, middle - half + 8, y + 4);
}
