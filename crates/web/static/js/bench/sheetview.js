// A sheet as the bench draws it: the stock, parts at their spots, weeding lines, whose each part is. Lengths mm.
import { usedUpTo } from './draw.js';

/** Turns the program's sheet into paths that can be drawn again and again. */
function prepare(sheet) {
  const pieces = sheet.pieces.map((p) => ({
    ...p,
    layers: p.layers.map((l) => ({ ...l, shapes: new Path2D(l.shapes), lines: new Path2D(l.lines) })),
  }));
  const whose = new Set(sheet.items.map((i) => i.job));
  return { ...sheet, pieces, labelled: whose.size > 1 };
}

/** The nth sheet of a job, ready to be drawn. */
export async function fetched(job, key, n, signal) {
  const answer = await fetch(`/jobs/${job}/sheets/${key}/${n}.json`, { signal });
  if (!answer.ok) throw new Error(`sheet: ${answer.status}`);
  return prepare(await answer.json());
}

/** The box that the view needs. */
export const extent = (view, sheet) => (view === 'sheet' && sheet ? { x: 0, y: 0, w: sheet.width, h: sheet.length } : null);

/** The topmost part at a place, that hands can move. */
export function partAt(sheet, [x, y]) {
  const inside = ({ map: [a, b, c, d, e, f], piece, moves }) => {
    const det = a * d - b * c;
    const [u, v] = [x - e, y - f];
    const [px, py] = [(d * u - c * v) / det, (a * v - b * u) / det];
    const [w, h] = sheet.pieces[piece].size;
    return moves && px >= 0 && py >= 0 && px <= w && py <= h;
  };
  return sheet.items.findLast(inside) ?? null;
}

/** Draws a part with another map than its own, as a ghost while it is dragged. */
export function ghost(c, sheet, item, map, px) {
  c.save();
  c.transform(...map);
  c.globalAlpha = 0.55;
  for (const l of sheet.pieces[item.piece].layers) {
    c.fillStyle = l.paint;
    c.fill(l.shapes, 'evenodd');
  }
  c.globalAlpha = 1;
  c.strokeStyle = '#17786b';
  c.lineWidth = 2 * px;
  c.setLineDash([5 * px, 3 * px]);
  c.strokeRect(0, 0, ...sheet.pieces[item.piece].size);
  c.setLineDash([]);
  c.restore();
}

function stock(c, s, px, colours) {
  c.fillStyle = colours.stock;
  c.fillRect(0, 0, s.width, s.length);
  const sides = (inset, open) => {
    c.beginPath();
    const [left, top, right, bottom] = [inset, inset, s.width - inset, s.length - (open ? 0 : inset)];
    c.moveTo(left, bottom);
    c.lineTo(left, top);
    c.lineTo(right, top);
    c.lineTo(right, bottom);
    if (!open) c.closePath();
    c.stroke();
  };
  c.lineWidth = px;
  c.strokeStyle = colours.soft;
  sides(0, s.goes_on);
  c.strokeStyle = colours.accent;
  c.setLineDash([6 * px, 4 * px]);
  sides(s.margin, s.goes_on);
  usedUpTo(c, s, px, colours);
  if (!s.goes_on) return;
  c.fillStyle = colours.soft;
  for (let n = -1; n <= 1; n += 1) c.fillRect(s.width / 2 + n * 8 * px - px, s.length + 6 * px, 2.5 * px, 2.5 * px);
}

function part(c, sheet, item, px, colours) {
  c.save();
  c.transform(...item.map);
  for (const l of sheet.pieces[item.piece].layers) {
    const line = l.operation === 'score' || l.operation === 'draw';
    if (!line) {
      c.fillStyle = l.paint;
      c.globalAlpha = l.operation === 'engrave' ? 0.65 : 1;
      c.fill(l.shapes, 'evenodd');
      c.globalAlpha = 1;
    }
    c.strokeStyle = line ? l.paint : colours.cut;
    c.lineWidth = px;
    c.stroke(l.shapes);
    c.strokeStyle = l.paint;
    c.stroke(l.lines);
  }
  if (item.wrong) {
    c.fillStyle = 'rgb(163 64 47 / .25)';
    c.strokeStyle = '#a3402f';
    c.lineWidth = 2.5 * px;
    c.fillRect(0, 0, ...sheet.pieces[item.piece].size);
    c.strokeRect(0, 0, ...sheet.pieces[item.piece].size);
  }
  c.restore();
}

/** Whose a part is, in its middle, where jobs of several people lie together. */
function label(c, sheet, { spot, map, piece, job, owner }, px, colours) {
  const [w, h] = sheet.pieces[piece].size;
  const [x, y] = [map[0] * w / 2 + map[2] * h / 2 + map[4], map[1] * w / 2 + map[3] * h / 2 + map[5]];
  const room = 2 * Math.min(x - spot.x, 10 * w) - 4 * px;
  const lines = [job, owner].filter(Boolean);
  const size = 10.5 * px;
  if (room < 40 * px || 2 * (y - spot.y) < lines.length * 14 * px) return;
  c.font = `${size}px "Public Sans", sans-serif`;
  const shown = lines.map((words) => {
    let own = words;
    while (own.length > 2 && c.measureText(`${own}…`).width > room) own = own.slice(0, -1);
    return own === words ? words : `${own.trimEnd()}…`;
  });
  const wide = Math.max(...shown.map((words) => c.measureText(words).width)) + 8 * px;
  const high = shown.length * 13 * px + 3 * px;
  c.fillStyle = colours.halo;
  c.globalAlpha = 0.9;
  c.fillRect(x - wide / 2, y - high / 2, wide, high);
  c.globalAlpha = 1;
  c.fillStyle = colours.ink;
  c.textAlign = 'center';
  shown.forEach((words, n) => c.fillText(words, x, y - high / 2 + (n + 1) * 13 * px - 2 * px));
  c.textAlign = 'start';
}

/** Draws a sheet; `px` is one screen pixel in mm. */
export function paint(c, sheet, px, colours) {
  stock(c, sheet, px, colours);
  c.lineJoin = c.lineCap = 'round';
  c.strokeStyle = colours.soft;
  c.lineWidth = px;
  const weeding = new Path2D();
  for (const [x0, y0, x1, y1] of sheet.boxes) weeding.rect(x0, y0, x1 - x0, y1 - y0);
  for (const [x0, y0, x1, y1] of sheet.relief) { weeding.moveTo(x0, y0); weeding.lineTo(x1, y1); }
  c.stroke(weeding);
  for (const item of sheet.items) part(c, sheet, item, px, colours);
  if (sheet.labelled) for (const item of sheet.items) label(c, sheet, item, px, colours);
}
