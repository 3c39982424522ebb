// A sheet as the bench draws it: the stock, parts at their spots, weeding lines, whose each part is. Lengths mm.
import { usedUpTo } from './draw.js';

/** Turns the program's sheet into paths that can be drawn again and again. */
function prepare(sheet) {
  const pieces = sheet.pieces.map((p) => ({
    ...p,
    layers: p.layers.map((l) => ({ ...l, shapes: new Path2D(l.shapes), lines: new Path2D(l.lines) })),
  }));
  const outline = sheet.outline ? new Path2D(sheet.outline) : null;
  const page = sheet.page && {
    ...sheet.page,
    marks: new Path2D(sheet.page.marks),
    ground: new Path2D(sheet.page.ground),
    pictures: sheet.page.pictures.map((p) => ({ ...p, within: new Path2D(p.within), safe: new Path2D(p.safe) })),
  };
  const whose = new Set(sheet.items.map((i) => i.job));
  return { ...sheet, outline, page, pieces, labelled: whose.size > 1 };
}

/** Pixels by name: a part that is moved is drawn with those at hand. */
const printedPixels = new Map();

/** The nth sheet of a job, ready to be drawn. */
export async function fetched(job, key, n, signal) {
  const answer = await fetch(`/jobs/${job}/sheets/${key}/${n}.json`, { signal });
  if (!answer.ok) throw new Error(`sheet: ${answer.status}`);
  const sheet = prepare(await answer.json());
  const printed = (sheet.page?.pictures ?? []).map(async (p) => {
    if (!printedPixels.has(p.name)) {
      if (printedPixels.size > 7) printedPixels.clear();
      printedPixels.set(p.name, loaded(`/jobs/${job}/sheets/${key}/${n}/pictures/${p.n}.png`));
    }
    p.pixels = await printedPixels.get(p.name);
  });
  await Promise.all(printed);
  return { ...sheet, picture: await loaded(sheet.picture) };
}

/** A picture that can be drawn; none where it cannot be had. */
async function loaded(address) {
  if (!address) return null;
  const picture = new Image();
  picture.src = address;
  try {
    await picture.decode();
    return picture;
  } catch {
    return null;
  }
}

/** The box around a part, mm: x0, y0, x1, y1. */
export function boxOf(sheet, { map: [a, b, c, d, e, f], piece }) {
  const [w, h] = sheet.pieces[piece].size;
  const [xs, ys] = [[0, a * w, c * h, a * w + c * h], [0, b * w, d * h, b * w + d * h]];
  return [e + Math.min(...xs), f + Math.min(...ys), e + Math.max(...xs), f + Math.max(...ys)];
}

/** The box that the view needs: what is used, from the corner where cutting begins; with nothing on it all of it. */
export function extent(view, sheet) {
  if (view !== 'sheet' || !sheet) return null;
  const all = [...sheet.items.map((i) => boxOf(sheet, i)), ...sheet.boxes];
  if (sheet.page) {
    const [x, y, w, h] = sheet.page.paper;
    return { x, y, w, h };
  }
  if (!all.length || sheet.outline) return { x: 0, y: 0, w: sheet.width, h: sheet.length };
  const [w, h] = [2, 3].map((k) => Math.max(...all.map((b) => b[k])) + sheet.margin);
  return { x: 0, y: 0, w: Math.min(w, sheet.width), h: Math.min(h, sheet.length) };
}

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

/** The mark at a place of a page to be printed: its place and its corner. */
export function markAt(sheet, [x, y], px) {
  const { places = [], near = 0 } = sheet.page ?? {};
  return places.find(([mx, my]) => Math.hypot(mx - x, my - y) <= Math.max(near, 14 * px)) ?? null;
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

/** A piece that is no rectangle: its picture, and the edge of what can be cut. */
function oddStock(c, s, px, colours) {
  c.save();
  c.fillStyle = colours.stock;
  c.fill(s.outline, 'evenodd');
  if (s.picture) {
    c.globalAlpha = 0.85;
    c.drawImage(s.picture, 0, 0, s.width, s.length);
  }
  c.restore();
  c.lineWidth = 1.5 * px;
  c.strokeStyle = colours.accent;
  c.stroke(s.outline);
}

/** The paper of a page to be printed: where the printer's margins end, the marks, and their ground, hatched. */
function paper(c, s, px, colours) {
  const { paper: sheet, marks, ground } = s.page;
  c.fillStyle = '#fff';
  c.fillRect(...sheet);
  c.lineWidth = px;
  c.strokeStyle = colours.soft;
  c.strokeRect(...sheet);
  c.setLineDash([6 * px, 4 * px]);
  c.strokeRect(...s.page.printable);
  c.setLineDash([]);
  c.save();
  c.clip(ground);
  c.beginPath();
  const step = 6 * px;
  const [left, top, wide, high] = sheet;
  for (let x = left - high; x < left + wide; x += step) {
    c.moveTo(x, top);
    c.lineTo(x + high, top + high);
  }
  c.stroke();
  c.restore();
  c.stroke(ground);
  c.fillStyle = '#000';
  c.fill(marks, 'evenodd');
}

/** What is printed of a part, and where it is cut. */
function print(c, sheet, item, px, colours) {
  const { within, safe, at, pixels } = sheet.page.pictures[item.piece];
  c.save();
  c.transform(...item.map);
  c.save();
  c.clip(within, 'evenodd');
  if (pixels) c.drawImage(pixels, ...at);
  c.restore();
  c.lineWidth = px;
  c.strokeStyle = colours.soft;
  c.setLineDash([3 * px, 3 * px]);
  c.stroke(within);
  c.setLineDash([px, 4 * px]);
  c.stroke(safe);
  c.setLineDash([]);
  c.strokeStyle = colours.accent;
  c.lineWidth = 1.5 * px;
  for (const l of sheet.pieces[item.piece].layers) c.stroke(l.shapes);
  c.restore();
}

function stock(c, s, px, colours) {
  if (s.page) {
    paper(c, s, px, colours);
    return;
  }
  if (s.outline) {
    oddStock(c, s, px, colours);
    return;
  }
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

const overlaps = (a, b) => a[0] < b[2] && a[2] > b[0] && a[1] < b[3] && a[3] > b[1];

/**
 * Whose each part is, where jobs of several people lie together: below or above it, where there is room between
 * the parts; never over one. The part that is pointed at is told of in any case.
 */
function labels(c, sheet, px, colours, pointed) {
  const boxes = sheet.items.map((i) => boxOf(sheet, i));
  const [high, pad] = [14 * px, 3 * px];
  const taken = [];
  c.font = `${10.5 * px}px "Public Sans", sans-serif`;
  const shortened = (words, room) => {
    let own = words;
    while (own.length > 3 && c.measureText(own === words ? own : `${own}…`).width > room) own = own.slice(0, -1);
    return own === words ? words : `${own.trimEnd()}…`;
  };
  sheet.items.forEach((item, n) => {
    const [x0, y0, x1, y1] = boxes[n];
    const whole = [item.job, item.owner].filter(Boolean).join(', ');
    const now = pointed === item.n;
    if (!now && x1 - x0 < 40 * px) return;
    const text = now ? whole : shortened(whole, x1 - x0 - 2 * pad);
    const wide = c.measureText(text).width + 2 * pad;
    if (!now && wide > x1 - x0 + 2 * px) return;
    const x = (x0 + x1 - wide) / 2;
    const free = (box) => !boxes.some((b) => overlaps(box, b)) && !taken.some((b) => overlaps(box, b));
    const places = [y1 + px, y0 - high - px].map((y) => [x, y, x + wide, y + high]);
    const place = places.find(free) ?? (now ? places[0] : null);
    if (!place) return;
    taken.push(place);
    c.fillStyle = now ? colours.ink : colours.halo;
    c.fillRect(place[0], place[1], wide, high);
    c.fillStyle = now ? colours.halo : colours.ink;
    c.fillText(text, place[0] + pad, place[1] + high - 3.5 * px);
  });
}

/** Draws a sheet; `px` is one screen pixel in mm. */
export function paint(c, sheet, px, colours, pointed = null) {
  stock(c, sheet, px, colours);
  c.lineJoin = c.lineCap = 'round';
  c.strokeStyle = colours.soft;
  c.lineWidth = px;
  const weeding = new Path2D();
  for (const [x0, y0, x1, y1] of sheet.boxes) weeding.rect(x0, y0, x1 - x0, y1 - y0);
  for (const [x0, y0, x1, y1] of sheet.relief) { weeding.moveTo(x0, y0); weeding.lineTo(x1, y1); }
  c.stroke(weeding);
  for (const item of sheet.items) {
    if (sheet.page) print(c, sheet, item, px, colours);
    if (!sheet.page || item.wrong) part(c, sheet, item, px, colours);
  }
  if (sheet.labelled) labels(c, sheet, px, colours, pointed);
}
