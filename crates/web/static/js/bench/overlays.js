// What lies over any view of the bench: a grid, numbered marks, and a look at what a remedy changes.

const SEVERITY = { stop: '#a3402f', warn: '#8a5600', note: '#565c7a' };

/** Lines every so many mm over what is seen. `seen` is x0, y0, x1, y1 in mm. */
export function grid(c, pitch, seen, px, colours) {
  // Too narrow to be told apart, every tenth line is drawn.
  let step = pitch;
  while (step / px < 5) step *= 10;
  const lines = new Path2D();
  for (let x = Math.ceil(seen[0] / step) * step; x <= seen[2]; x += step) { lines.moveTo(x, seen[1]); lines.lineTo(x, seen[3]); }
  for (let y = Math.ceil(seen[1] / step) * step; y <= seen[3]; y += step) { lines.moveTo(seen[0], y); lines.lineTo(seen[2], y); }
  c.strokeStyle = colours.accent;
  c.globalAlpha = 0.28;
  c.lineWidth = px;
  c.stroke(lines);
  c.globalAlpha = 1;
}

/** Where a place of the design lies in the view. */
export const placed = ([x, y], map) => (map ? [map[0] * x + map[2] * y + map[4], map[1] * x + map[3] * y + map[5]] : [x, y]);

/** Numbers at the places that the checks found, in screen pixels. */
export function marks(c, all, toScreen) {
  c.font = '600 11px "Public Sans", sans-serif';
  c.textAlign = 'center';
  for (const { n, x, y, severity, on } of all) {
    const [sx, sy] = toScreen([x, y]);
    const colour = SEVERITY[severity] ?? SEVERITY.note;
    c.strokeStyle = colour;
    c.lineWidth = on ? 3 : 1.5;
    c.beginPath();
    c.arc(sx, sy, on ? 16 : 11, 0, 7);
    c.stroke();
    const [tx, ty] = [sx + 13, sy - 13];
    c.beginPath();
    c.arc(tx, ty, 9, 0, 7);
    c.fillStyle = colour;
    c.fill();
    c.strokeStyle = '#fffdf7';
    c.lineWidth = 1.5;
    c.stroke();
    c.fillStyle = '#fffdf7';
    c.fillText(String(n), tx, ty + 4);
  }
  c.textAlign = 'start';
}

/** Lines as they would be after a remedy. */
export function preview(c, path, px) {
  for (const { colour, width } of [{ colour: '#fffdf7', width: 4 }, { colour: '#17786b', width: 2 }]) {
    c.strokeStyle = colour;
    c.lineWidth = width * px;
    c.stroke(path);
  }
}
