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
export function prepare(outlines, context) {
  let kept = 0;
  const inks = outlines.inks.map((ink) => {
    if (ink.letter) kept += 1;
    const hatch = ink.letter ? context.createPattern(hatchTile(ink.colour, kept), 'repeat') : null;
    return { ...ink, hatch };
  });
  const shapes = outlines.shapes.map((s) => ({
    ink: inks[s.ink],
    outer: new Path2D(s.outer),
    holes: s.holes.map((d) => new Path2D(d)),
    whole: new Path2D([s.outer, ...s.holes].join('')),
    nodes: s.nodes,
    handles: s.handles,
  }));
  return { inks, shapes };
}

/** Outlines over faint, hatched fills; holes dashed. `px` is one screen pixel in mm. */
export function outlines(c, design, px, colours) {
  for (const s of design.shapes) {
    c.globalAlpha = 0.14;
    c.fillStyle = s.ink.colour;
    c.fill(s.whole, 'evenodd');
    c.globalAlpha = 0.5;
    s.ink.hatch.setTransform(new DOMMatrix().scale(px * 0.8));
    c.fillStyle = s.ink.hatch;
    c.fill(s.whole, 'evenodd');
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
  }
  c.setLineDash([]);
}

/** Hairlines, nodes as squares, handles as dots. */
export function wireframe(c, design, px, colours) {
  c.lineWidth = px;
  c.strokeStyle = colours.cut;
  for (const s of design.shapes) c.stroke(s.whole);
  c.strokeStyle = c.fillStyle = colours.accent;
  c.lineWidth = px * 0.7;
  c.globalAlpha = 0.7;
  c.beginPath();
  for (const { handles: h } of design.shapes) {
    for (let i = 0; i < h.length; i += 4) {
      c.moveTo(h[i], h[i + 1]);
      c.lineTo(h[i + 2], h[i + 3]);
    }
  }
  c.stroke();
  c.beginPath();
  for (const { handles: h } of design.shapes) {
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
  for (const { nodes: n } of design.shapes) {
    for (let i = 0; i < n.length; i += 2) c.rect(n[i] - 2.5 * px, n[i + 1] - 2.5 * px, 5 * px, 5 * px);
  }
  c.fill();
  c.stroke();
}
