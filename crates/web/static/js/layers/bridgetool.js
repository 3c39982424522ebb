// Bridges by hand: dragged across what is cut out, moved by their middle or an end, taken out.

const ACCENT = '#17786b';
const near = (a, b, reach) => Math.hypot(a[0] - b[0], a[1] - b[1]) < reach;

/** @param {object} own { px, bridges, draw, move, remove } */
export function bridgeTool(own) {
  let from = null;
  let now = null;
  let moved = null;
  let picked = -1;

  /** The bridge under a place, and which part of it: 0 and 1 its ends, 2 all of it. */
  const under = (at) => {
    const reach = 9 * own.px();
    for (const [n, [x0, y0, x1, y1]] of own.bridges().entries()) {
      if (near(at, [x0, y0], reach)) return { n, part: 0 };
      if (near(at, [x1, y1], reach)) return { n, part: 1 };
      if (near(at, [(x0 + x1) / 2, (y0 + y1) / 2], reach * 1.5)) return { n, part: 2 };
    }
    return null;
  };
  const line = () => {
    if (!moved) return [...from, ...now];
    const [x0, y0, x1, y1] = own.bridges()[moved.n];
    const [dx, dy] = [now[0] - from[0], now[1] - from[1]];
    if (moved.part === 0) return [x0 + dx, y0 + dy, x1, y1];
    if (moved.part === 1) return [x0, y0, x1 + dx, y1 + dy];
    return [x0 + dx, y0 + dy, x1 + dx, y1 + dy];
  };

  return {
    cursor: 'crosshair',
    drags: true,
    down(at) {
      [from, now] = [at, at];
      moved = under(at);
      picked = moved ? moved.n : -1;
    },
    move(at) { now = at; },
    up(at) {
      now = at;
      const far = !near(from, at, 3 * own.px());
      const drawn = line();
      if (far && moved) own.move(moved.n, drawn);
      else if (far) own.draw(drawn);
      from = null;
      moved = null;
    },
    cancel() { [from, moved] = [null, null]; },
    act(name) {
      if (name === 'delete' && picked >= 0) own.remove(picked);
      picked = -1;
    },
    settled() {},
    paint(c, px) {
      own.bridges().forEach(([x0, y0, x1, y1], n) => {
        c.strokeStyle = n === picked ? '#a3402f' : ACCENT;
        c.fillStyle = '#fffdf7';
        c.lineWidth = 1.4 * px;
        c.beginPath();
        c.moveTo(x0, y0);
        c.lineTo(x1, y1);
        c.stroke();
        for (const [x, y] of [[x0, y0], [x1, y1], [(x0 + x1) / 2, (y0 + y1) / 2]]) {
          c.beginPath();
          c.arc(x, y, 3.5 * px, 0, 7);
          c.fill();
          c.stroke();
        }
      });
      if (!from) return;
      const [x0, y0, x1, y1] = line();
      c.strokeStyle = ACCENT;
      c.lineWidth = 3 * px;
      c.beginPath();
      c.moveTo(x0, y0);
      c.lineTo(x1, y1);
      c.stroke();
    },
  };
}
