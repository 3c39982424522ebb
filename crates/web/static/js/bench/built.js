// Layers as they are built: laid over each other, apart, each alone, or on the stock. Lengths mm.
import { usedUpTo } from './draw.js';

/** @returns {boolean} whether a view shows layers rather than the design */
export const isBuilt = (view) => ['assembled', 'apart', 'stock'].includes(view) || view.startsWith('alone ');

/** Turns the program's layers into paths that can be drawn again and again. */
export function prepare(built) {
  const layers = built.layers.map((l) => ({
    ...l,
    parts: new Path2D(l.parts),
    lines: l.lines === null ? null : new Path2D(l.lines),
    strokes: l.strokes.map(([d, pen]) => [new Path2D(d), pen]),
    under: new Path2D(l.under),
    marks: new Path2D(l.marks),
    islands: new Path2D(l.islands),
  }));
  const lying = built.stock && { ...built.stock, outline: built.stock.outline && new Path2D(built.stock.outline) };
  return { ...built, layers, stock: lying };
}

const SHEAR = [0.94, 0.1, -0.3, 0.5];

/** Where a layer lies in the view that shows them apart, and how large that view is. */
function apart(built, width, height) {
  const count = built.layers.filter((l) => l.show).length;
  const [x0, y0, x1, y1] = built.bounds;
  const gap = (y1 - y0) * 0.42;
  const [a, b, c, d] = SHEAR;
  const corners = [[x0, y0], [x1, y0], [x1, y1], [x0, y1]].map(([x, y]) => [a * x + c * y, b * x + d * y]);
  const left = Math.min(...corners.map((p) => p[0]));
  const right = Math.max(...corners.map((p) => p[0]));
  const top = Math.min(...corners.map((p) => p[1])) - gap * (count - 1);
  const bottom = Math.max(...corners.map((p) => p[1]));
  const scale = Math.min(width / (right - left), height / (bottom - top));
  const [ox, oy] = [(width - (right - left) * scale) / 2 - left * scale, (height - (bottom - top) * scale) / 2 - top * scale];
  return (n) => [a * scale, b * scale, c * scale, d * scale, ox, oy - n * gap * scale];
}

/** The box that a view needs: that of the artwork, of all that is cut, or of the stock. */
export function extent(built, view, width, height) {
  if (view === 'stock' && built?.stock) return { x: 0, y: 0, w: built.stock.width, h: built.stock.length };
  if (!built || view === 'apart' || !isBuilt(view)) return { x: 0, y: 0, w: width, h: height };
  const [x0, y0, x1, y1] = built.bounds;
  const [left, top] = [Math.min(0, x0), Math.min(0, y0)];
  return { x: left, y: top, w: Math.max(width, x1) - left, h: Math.max(height, y1) - top };
}

function layer(c, l, px, colours, { outline = true, shade = false } = {}) {
  if (shade) {
    c.save();
    c.shadowColor = 'rgb(29 37 69 / .35)';
    c.shadowBlur = 10;
    c.shadowOffsetY = 5;
  }
  if (l.operation === 'cut through' || l.operation === 'kiss cut' || l.operation === 'engrave') {
    c.fillStyle = l.paint;
    c.globalAlpha = l.operation === 'engrave' ? 0.65 : 1;
    c.fill(l.parts, 'evenodd');
    c.globalAlpha = 1;
  }
  if (shade) c.restore();
  c.lineJoin = c.lineCap = 'round';
  for (const [path, pen] of l.strokes) {
    c.strokeStyle = l.paint;
    c.lineWidth = Math.max(pen, px);
    c.stroke(path);
  }
  if (!outline) return;
  c.strokeStyle = colours.cut;
  c.lineWidth = px;
  c.setLineDash(l.operation === 'score' ? [4 * px, 3 * px] : []);
  c.stroke(l.lines ?? l.parts);
  c.setLineDash([]);
  c.stroke(l.marks);
}

/** What reaches under other layers, as a hatch over everything. */
function underlaps(c, built, px, colours) {
  for (const l of built.layers.filter((own) => own.show)) {
    c.save();
    c.clip(l.under, 'evenodd');
    const [x0, y0, x1, y1] = built.bounds;
    c.strokeStyle = colours.halo;
    c.lineWidth = 2.4 * px;
    const hatch = new Path2D();
    const step = 6 * px;
    // Few enough to draw however far it is zoomed in.
    const most = Math.min(4000, (x1 - x0 + y1 - y0) / step);
    for (let n = 0; n <= most; n += 1) {
      hatch.moveTo(x0 + n * step, y0);
      hatch.lineTo(x0 + n * step - (y1 - y0), y1);
    }
    c.stroke(hatch);
    c.strokeStyle = colours.accent;
    c.lineWidth = px;
    c.stroke(hatch);
    c.restore();
    c.strokeStyle = colours.accent;
    c.lineWidth = px;
    c.setLineDash([3 * px, 2 * px]);
    c.stroke(l.under);
    c.setLineDash([]);
  }
}

function islands(c, built, px) {
  for (const l of built.layers.filter((own) => own.show && own.sheet)) {
    c.fillStyle = 'rgb(163 64 47 / .28)';
    c.strokeStyle = '#a3402f';
    c.lineWidth = 1.6 * px;
    c.fill(l.islands, 'evenodd');
    c.stroke(l.islands);
  }
}

/** What is left of the stock, told beside the line up to which it is used. */
function leftOver(c, s, px, unit, colours) {
  const long = (mm) => (unit === 'in' ? `${(mm / 25.4).toFixed(1)} in` : mm < 1000 ? `${mm.toFixed(0)} mm` : `${(mm / 1000).toFixed(2)} m`);
  const wide = (mm2) => (unit === 'in' ? `${(mm2 / 92903.04).toFixed(1)} ft²` : mm2 < 1e5 ? `${(mm2 / 100).toFixed(0)} cm²` : `${(mm2 / 1e6).toFixed(2)} m²`);
  c.lineWidth = px;
  usedUpTo(c, s, px, colours);
  c.font = `${12 * px}px "Public Sans", sans-serif`;
  c.fillStyle = colours.soft;
  const rest = s.left === null ? '' : ` · left ${long(s.left)}, ${wide(s.left_area)}`;
  const words = `used ${long(s.used)} · beside it ${wide(s.beside)}${rest}`;
  c.fillText(words, s.width - s.margin - c.measureText(words).width - 6 * px, s.used + 15 * px);
}

function stock(c, built, px, colours) {
  const s = built.stock;
  c.fillStyle = colours.stock;
  if (s.outline) {
    c.fill(s.outline, 'evenodd');
    c.strokeStyle = colours.accent;
    c.lineWidth = 1.5 * px;
    c.stroke(s.outline);
    return;
  }
  c.fillRect(0, 0, s.width, s.length);
  // A roll that goes on has no end that is seen.
  const sides = (left, top, right, bottom) => {
    c.beginPath();
    c.moveTo(left, bottom);
    c.lineTo(left, top);
    c.lineTo(right, top);
    c.lineTo(right, bottom);
    if (!s.goes_on) c.closePath();
    c.stroke();
  };
  c.strokeStyle = colours.soft;
  c.lineWidth = px;
  sides(0, 0, s.width, s.length);
  c.setLineDash([6 * px, 4 * px]);
  c.strokeStyle = colours.accent;
  sides(s.margin, s.margin, s.width - s.margin, s.length - (s.goes_on ? 0 : s.margin));
  c.setLineDash([]);
  if (!s.goes_on) return;
  c.fillStyle = colours.soft;
  for (let n = -1; n <= 1; n += 1) c.fillRect(s.width / 2 + n * 8 * px - px, s.length + 6 * px, 2.5 * px, 2.5 * px);
}

/** Draws a view of layers; `px` is one screen pixel in mm. */
export function paint(c, built, view, { width, height, unit }, px, colours) {
  const shown = built.layers.filter((l) => l.show);
  if (view === 'apart') {
    const at = apart(built, width, height);
    shown.forEach((l, n) => {
      c.save();
      c.transform(...at(n));
      layer(c, l, px, colours, { shade: true });
      c.restore();
    });
    return;
  }
  if (view.startsWith('alone ')) {
    const own = built.layers.find((l) => l.letter === view.slice(6));
    if (own) layer(c, own, px, colours);
    if (own?.sheet) islands(c, { layers: [own] }, px);
    return;
  }
  if (view === 'stock' && built.stock) {
    stock(c, built, px, colours);
    c.save();
    c.transform(...built.stock.map);
    for (const l of shown) layer(c, l, px, colours);
    c.restore();
    if (!built.stock.outline) leftOver(c, built.stock, px, unit, colours);
    return;
  }
  for (const l of shown) layer(c, l, px, colours);
  underlaps(c, built, px, colours);
  islands(c, built, px);
}
