// The tool that follows the artwork's own edges from click to click.
import { end } from '../bench/paths.js';

const ACCENT = '#17786b';
const REACH = 14;

/**
 * @param {object} own { px, follow(from, to, reach) → { path, d }, draw }
 */
export function followTool(own) {
  /** Ways that were clicked: { path, d }; and the one to the pointer. */
  let ways = [];
  let start = null;
  let ahead = null;
  let asking = false;
  let wanted = null;

  const last = () => (ways.length ? end(ways.at(-1).path.to.at(-1)) : start);
  const close = (at) => start && ways.length > 0 && Math.hypot(at[0] - start[0], at[1] - start[1]) < REACH * own.px();
  /** Asks for the way to the pointer; the newest question is answered last. */
  async function look(at) {
    wanted = at;
    if (asking || !start) return;
    asking = true;
    while (wanted) {
      const to = wanted;
      wanted = null;
      ahead = await own.follow(last(), close(to) ? start : to, REACH * own.px());
    }
    asking = false;
  }
  const clear = () => { [ways, start, ahead, wanted] = [[], null, null, null]; };
  const done = () => {
    const all = ways;
    clear();
    if (!all.length) return;
    const path = { start: all[0].path.start, to: all.flatMap((w) => w.path.to), closed: false };
    const [x, y] = end(path.to.at(-1));
    path.closed = Math.hypot(x - path.start[0], y - path.start[1]) < 0.01;
    own.draw({ draw: 'path', path });
  };

  return {
    cursor: 'crosshair',
    async up(at) {
      if (!start) { start = at; return; }
      const closing = close(at);
      const way = await own.follow(last(), closing ? start : at, REACH * own.px());
      if (!way) return;
      // The first place lies on the edge, not where the pointer was.
      if (!ways.length) start = way.path.start;
      ways.push(way);
      ahead = null;
      if (closing) done();
    },
    hover(at) { look(at); },
    twice() { done(); },
    cancel() { clear(); },
    back() {
      if (!start) return false;
      clear();
      return true;
    },
    settled() {},
    paint(c, px) {
      c.strokeStyle = ACCENT;
      c.lineWidth = 2.4 * px;
      for (const { d } of ways) c.stroke(new Path2D(d));
      if (ahead) {
        c.setLineDash([5 * px, 3 * px]);
        c.stroke(new Path2D(ahead.d));
        c.setLineDash([]);
      }
      if (start) {
        c.beginPath();
        c.arc(...start, 4 * px, 0, 7);
        c.fillStyle = '#fffdf7';
        c.fill();
        c.lineWidth = 1.4 * px;
        c.stroke();
      }
    },
  };
}
