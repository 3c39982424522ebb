// Draws one view of a design on the bench's canvas. All lengths mm; the canvas is scaled already.

const HATCH = 6;

/** A small tile of an ink's hatch, the same in order as the swatches of the rail. */
function hatchTile(colour, index) {
  const tile = document.createElement('canvas');
  tile.width = tile.height = HATCH * 2;
  const c = tile.getContext('2d');
  c.scale(2, 2);
  c.strokeStyle = c.fillStyle = colour;
  c.lineWidth = 1;
  const line = (...p) => {
    c.beginPath();
    for (let i = 0; i < p.length; i += 4) { c.moveTo(p[i], p[i + 1]); c.lineTo(p[i + 2], p[i + 3]); }
    c.stroke();
  };
  [
    () => line(0, 3, 6, 3, 3, 0, 3, 6),
    () => line(-1, 7, 7, -1, -1, 1, 1, -1, 5, 7, 7, 5),
    () => line(0, 3, 6, 3),
    () => { c.beginPath(); c.arc(3, 3, 1, 0, 7); c.fill(); },
    () => line(3, 0, 3, 6),
    () => line(-1, -1, 7, 7, -1, 5, 1, 7, 5, -1, 7, 1),
  ][index % 6]();
  return tile;
}

/** Turns the server's outlines into paths that can be drawn again and again. */
export function prepare(given, context) {
  let kept = 0;
  const inks = given.inks.map((ink) => {
    if (ink.letter) kept += 1;
    const hatch = ink.letter ? context.createPattern(hatchTile(ink.colour, kept), 'repeat') : null;
    return { ...ink, hatch };
  });
  const shapes = given.shapes.map((s) => ({
    ink: inks[s.ink],
    outer: new Path2D(s.outer),
    holes: s.holes.map((d) => new Path2D(d)),
    whole: new Path2D([s.outer, ...s.holes].join('')),
    nodes: s.nodes,
    handles: s.handles,
    strayed: s.strayed,
  }));
  const strokes = given.strokes.map((s) => ({ ...s, ink: inks[s.ink], whole: new Path2D(s.path) }));
  const wires = [...shapes, ...strokes];
  const greatest = Math.max(1e-9, ...wires.map((s) => s.strayed.reduce((a, b) => Math.max(a, b), 0)));
  const nodes = wires.reduce((sum, s) => sum + s.nodes.length / 2, 0);
  return { inks, shapes, strokes, wires, greatest, nodes, missed: given.missed };
}

/** Stroke lines drawn with a round pen as wide as the lines they stand for. */
function pens(c, design) {
  c.lineCap = c.lineJoin = 'round';
  c.globalAlpha = 0.3;
  for (const s of design.strokes) {
    c.strokeStyle = s.ink.colour;
    c.lineWidth = s.pen;
    c.stroke(s.whole);
  }
  c.globalAlpha = 1;
}

/** An ink's hatch over a shape, as fine at every zoom. */
function hatched(c, shape, px) {
  c.globalAlpha = 0.5;
  shape.ink.hatch.setTransform(new DOMMatrix().scale(px * 0.8));
  c.fillStyle = shape.ink.hatch;
  c.fill(shape.whole, 'evenodd');
}

/** The dashed line up to which a stock is used. */
export function usedUpTo(c, stock, px, colours) {
  c.strokeStyle = colours.soft;
  c.setLineDash([2 * px, 3 * px]);
  c.beginPath();
  c.moveTo(0, stock.used);
  c.lineTo(stock.width, stock.used);
  c.stroke();
  c.setLineDash([]);
}

/**
 * Outlines over faint, hatched fills; holes dashed; stroke lines, on wish as wide as the pen.
 * `px` is one screen pixel in mm.
 */
export function outlines(c, design, px, colours, withPens) {
  if (withPens) pens(c, design);
  for (const s of design.shapes) {
    c.globalAlpha = 0.14;
    c.fillStyle = s.ink.colour;
    c.fill(s.whole, 'evenodd');
    hatched(c, s, px);
  }
  c.globalAlpha = 1;
  c.lineJoin = 'round';
  for (const [width, colour] of [[4, colours.halo], [1.5, colours.cut]]) {
    c.lineWidth = width * px;
    c.strokeStyle = colour;
    for (const s of design.shapes) {
      c.setLineDash([]);
      c.stroke(s.outer);
      if (colour === colours.cut) c.setLineDash([5 * px, 3 * px]);
      for (const hole of s.holes) c.stroke(hole);
    }
    c.setLineDash([]);
    // The pen's own breadth is halo enough.
    if (withPens && colour === colours.halo) continue;
    for (const s of design.strokes) c.stroke(s.whole);
  }
  c.setLineDash([]);
}

/** Over the artwork: what outlines cover already lies under a veil, so that it is not drawn twice. */
export function covered(c, design, px, colours) {
  for (const s of design.shapes) {
    c.globalAlpha = 0.8;
    c.fillStyle = colours.stock;
    c.fill(s.whole, 'evenodd');
    hatched(c, s, px);
  }
  c.globalAlpha = 1;
  c.lineWidth = px;
  c.strokeStyle = colours.cut;
  for (const s of design.wires) c.stroke(s.whole);
}

/** Hairlines, nodes as squares, handles as dots. */
export function wireframe(c, design, px, colours) {
  c.lineWidth = px;
  c.strokeStyle = colours.cut;
  for (const s of design.wires) c.stroke(s.whole);
  c.strokeStyle = c.fillStyle = colours.accent;
  c.lineWidth = px * 0.7;
  c.globalAlpha = 0.7;
  c.beginPath();
  for (const { handles: h } of design.wires) {
    for (let i = 0; i < h.length; i += 4) {
      c.moveTo(h[i], h[i + 1]);
      c.lineTo(h[i + 2], h[i + 3]);
    }
  }
  c.stroke();
  c.beginPath();
  for (const { handles: h } of design.wires) {
    for (let i = 0; i < h.length; i += 4) {
      c.moveTo(h[i + 2] + 1.8 * px, h[i + 3]);
      c.arc(h[i + 2], h[i + 3], 1.8 * px, 0, 7);
    }
  }
  c.fill();
  c.globalAlpha = 1;
  c.fillStyle = colours.halo;
  c.lineWidth = 1.3 * px;
  c.beginPath();
  for (const { nodes: n } of design.wires) {
    for (let i = 0; i < n.length; i += 2) c.rect(n[i] - 2.5 * px, n[i + 1] - 2.5 * px, 5 * px, 5 * px);
  }
  c.fill();
  c.stroke();
}

// From on the edge to the greatest distance off it: told apart by size as well as by colour.
const STEPS = ['#17786b', '#7a8f3c', '#c99a1b', '#cf6a1f', '#b3261e'];
const stepOf = (off, greatest) => Math.min(STEPS.length - 1, Math.floor((off / greatest) * STEPS.length));

/** Hairlines with a dot where each segment starts: the larger and redder, the farther it lies off. */
export function strayed(c, design, px, colours) {
  c.lineWidth = px;
  c.strokeStyle = colours.ink;
  for (const s of design.wires) c.stroke(s.whole);
  c.strokeStyle = colours.halo;
  STEPS.forEach((colour, step) => {
    const r = (2 + step * 0.9) * px;
    c.fillStyle = colour;
    c.beginPath();
    for (const { nodes, strayed: off } of design.wires) {
      for (let i = 0; i < off.length; i += 1) {
        if (stepOf(off[i], design.greatest) !== step) continue;
        c.moveTo(nodes[2 * i] + r, nodes[2 * i + 1]);
        c.arc(nodes[2 * i], nodes[2 * i + 1], r, 0, 7);
      }
    }
    c.fill();
    c.stroke();
  });
}

/** What the dots of the strayed view mean, at a place of the canvas in screen pixels. */
export function strayedLegend(c, design, x, y, unit, colours) {
  const shown = (mm) => (unit === 'in' ? (mm / 25.4).toFixed(4) : mm.toFixed(3));
  c.font = '11.5px "Public Sans", sans-serif';
  const words = `off the edge, up to ${shown(design.greatest)} ${unit}`;
  c.fillStyle = colours.halo;
  c.globalAlpha = 0.85;
  c.fillRect(x - 8, y - 12, STEPS.length * 18 + c.measureText(words).width + 24, 24);
  c.globalAlpha = 1;
  STEPS.forEach((colour, step) => {
    c.fillStyle = colour;
    c.beginPath();
    c.arc(x + step * 18 + 6, y, 2 + step * 0.9, 0, 7);
    c.fill();
  });
  c.fillStyle = colours.ink;
  c.fillText(words, x + STEPS.length * 18 + 6, y + 4);
}
