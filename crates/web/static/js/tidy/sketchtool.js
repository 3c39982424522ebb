// Tools that draw: places are gathered here, the path through them is asked of the program.
import { mark, snapped } from '../bench/snap.js';

const ACCENT = '#17786b';
const gap = (a, b) => Math.hypot(a[0] - b[0], a[1] - b[1]);

/**
 * @param {string} name which thing is drawn
 * @param {object} own { px, snaps, grid, items, look, draw, radius, smooth, follow }
 */
export function sketchTool(name, own) {
  let places = [];
  let handles = [];
  let now = null;
  let snap = null;
  let pressed = null;
  let shown = null;

  const dragged = name === 'rectangle' || name === 'ellipse';
  const three = name === 'circle' || name === 'arc';
  const even = ([ax, ay], [bx, by]) => {
    const side = Math.max(Math.abs(bx - ax), Math.abs(by - ay));
    return [ax + Math.sign(bx - ax) * side, ay + Math.sign(by - ay) * side];
  };
  const sketch = (closed = false) => {
    if (dragged) return pressed && now && { draw: name, from: pressed, to: now, ...(name === 'rectangle' ? { radius: own.radius() } : {}) };
    if (three) {
      const through = places.length < 3 && now ? [...places, now] : places;
      return through.length === 3 && { draw: name, through };
    }
    if (name === 'pen') return places.length > 1 && { draw: 'pen', nodes: places.map((p, n) => [p, handles[n] ?? null]), closed };
    const all = closed || !now ? places : [...places, now];
    return all.length > 1 && { draw: 'line', places: all, closed, smooth: own.smooth() };
  };
  const look = () => {
    const last = places.at(-1);
    const still = !dragged && now && last && gap(now, last) < own.px();
    const asked = !still && sketch();
    if (asked) own.look(asked, (drawn) => { shown = drawn; });
    else shown = null;
  };
  const clear = () => { [places, handles, shown, pressed, snap] = [[], [], null, null, null]; own.look(null); };
  const done = (closed) => {
    if (!dragged) now = null;
    const asked = sketch(closed);
    clear();
    if (asked) own.draw(asked);
  };
  const draw = (at, event) => {
    const from = pressed ?? places.at(-1) ?? null;
    snap = snapped(at, own.px(), own.snaps, { items: own.items(), from: dragged ? null : from, grid: own.grid });
    const place = snap.at;
    return dragged && pressed && event?.shiftKey ? even(pressed, place) : place;
  };

  return {
    cursor: 'crosshair',
    drags: dragged,
    down(at, event) {
      now = draw(at, event);
      pressed = now;
      if (name === 'pen') { places.push(now); handles.push(null); }
    },
    move(at, event) {
      now = draw(at, event);
      if (name === 'pen' && pressed && gap(now, pressed) > 3 * own.px()) handles[handles.length - 1] = now;
      look();
    },
    up(at, event) {
      now = draw(at, event);
      const start = places[0];
      if (dragged) { done(); return; }
      pressed = null;
      if (three) {
        places.push(now);
        if (places.length === 3) done();
      } else if (name === 'pen') {
        const closes = places.length > 2 && gap(places.at(-1), start) < 8 * own.px();
        if (closes) {
          places.pop();
          const handle = handles.pop();
          if (handle) [handles[0]] = [handle];
          done(true);
        }
      } else if (places.length > 2 && gap(now, start) < 8 * own.px()) done(true);
      else if (!places.length || gap(now, places.at(-1)) > 1e-3) places.push(now);
      look();
    },
    twice() { if (!dragged && !three && places.length > 1) done(false); },
    hover(at, event) { now = draw(at, event); look(); },
    leave() { now = null; snap = null; },
    cancel() { clear(); },
    /** Whether Escape takes back what was begun rather than putting the tool down. */
    back() {
      if (!places.length && !pressed) return false;
      clear();
      return true;
    },
    settled() {},
    paint(c, px) {
      c.lineWidth = 1.8 * px;
      c.strokeStyle = ACCENT;
      if (shown) c.stroke(new Path2D(shown.d));
      c.fillStyle = '#fffdf7';
      c.lineWidth = 1.2 * px;
      for (const [x, y] of places) {
        c.beginPath();
        c.rect(x - 3 * px, y - 3 * px, 6 * px, 6 * px);
        c.fill();
        c.stroke();
      }
      handles.forEach((h, n) => {
        if (!h) return;
        const p = places[n];
        c.beginPath();
        c.moveTo(...h);
        c.lineTo(2 * p[0] - h[0], 2 * p[1] - h[1]);
        c.stroke();
      });
      if (snap) mark(c, px, snap);
    },
  };
}
