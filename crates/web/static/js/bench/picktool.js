// The tool for whole shapes: pick, move, scale and turn by handles.
import { mark, snapped } from './snap.js';

const ACCENT = '#17786b';
const HANDLE = 8;
const MANY = 300;

/** The eight handles of a box and the one that turns it, mm. */
function handles([x0, y0, x1, y1], px) {
  const [mx, my] = [(x0 + x1) / 2, (y0 + y1) / 2];
  const all = [[x0, y0], [mx, y0], [x1, y0], [x1, my], [x1, y1], [mx, y1], [x0, y1], [x0, my]];
  return [...all.map((at, n) => ({ at, n })), { at: [mx, y0 - 24 * px], n: 'turn' }];
}

const about = ([cx, cy], [a, b, c, d]) => [a, b, c, d, cx - a * cx - c * cy, cy - b * cx - d * cy];

/**
 * @param {import('./picked.js').Picked} picked
 * @param {object} own { px, snaps, grid, changed, send, lasso, fixed }; what is fixed is picked and not moved
 */
export function pickTool(picked, own) {
  let from = null;
  let now = null;
  let doing = null;
  let map = null;
  let snap = null;
  const outline = [];

  const scaled = (n, at, even) => {
    const [x0, y0, x1, y1] = picked.box;
    const fixed = [[x1, y1], [0, y1], [x0, y1], [x0, 0], [x0, y0], [0, y0], [x1, y0], [x1, 0]][n];
    const start = handles(picked.box, own.px())[n].at;
    const across = n % 4 !== 1;
    const down = n % 4 !== 3;
    const part = (i) => (start[i] === fixed[i] ? 1 : (at[i] - fixed[i]) / (start[i] - fixed[i]));
    let [sx, sy] = [across ? part(0) : 1, down ? part(1) : 1];
    if (even && across && down) sx = sy = Math.abs(sx) > Math.abs(sy) ? sx : sy;
    const keep = (v) => (Math.abs(v) < 1e-3 ? 1e-3 : v);
    return about([across ? fixed[0] : 0, down ? fixed[1] : 0], [keep(sx), 0, 0, keep(sy)]);
  };
  const turned = (at, step) => {
    const [x0, y0, x1, y1] = picked.box;
    /** @type {[number, number]} */
    const c = [(x0 + x1) / 2, (y0 + y1) / 2];
    let angle = Math.atan2(at[1] - c[1], at[0] - c[0]) + Math.PI / 2;
    if (step) angle = Math.round(angle / (Math.PI / 12)) * (Math.PI / 12);
    const [sin, cos] = [Math.sin(angle), Math.cos(angle)];
    return about(c, [cos, sin, -sin, cos]);
  };
  const moved = (at, event) => {
    let by = [at[0] - from[0], at[1] - from[1]];
    if (event.shiftKey) by = Math.abs(by[0]) > Math.abs(by[1]) ? [by[0], 0] : [0, by[1]];
    else {
      // The corner or the middle of what is moved is what snaps.
      const [x0, y0, x1, y1] = doing.box;
      const skip = new Set(picked.ids);
      for (const [x, y] of [[x0, y0], [x1, y0], [x1, y1], [x0, y1], [(x0 + x1) / 2, (y0 + y1) / 2]]) {
        snap = snapped([x + by[0], y + by[1]], own.px(), own.snaps, { items: picked.items, skip, grid: own.grid });
        if (snap.by) { by = [snap.at[0] - x, snap.at[1] - y]; break; }
      }
    }
    return [1, 0, 0, 1, ...by];
  };

  const outlined = (c, px) => {
    c.lineJoin = 'round';
    for (const { colour, width } of [{ colour: '#fff', width: 4 }, { colour: ACCENT, width: 2 }]) {
      c.strokeStyle = colour;
      c.lineWidth = width * px;
      for (const i of picked.all) c.stroke(i.path);
    }
  };

  return {
    cursor: own.lasso ? 'crosshair' : 'default',
    drags: true,
    down(at, event) {
      [from, now, map, snap] = [at, at, null, null];
      outline.length = 0;
      outline.push(at);
      const px = own.px();
      if (own.lasso) { doing = { what: 'outline' }; return; }
      const box = own.fixed ? null : picked.box;
      const handle = box && handles(box, px).find((h) => Math.hypot(h.at[0] - at[0], h.at[1] - at[1]) < HANDLE * px);
      if (handle) { doing = { what: handle.n === 'turn' ? 'turn' : 'scale', n: handle.n, box }; return; }
      const on = picked.under(at, px);
      if (!own.fixed && !event.shiftKey && on.some((i) => picked.has(i.id))) doing = { what: 'move', box };
      else doing = { what: 'box' };
    },
    move(at, event) {
      now = at;
      const far = Math.hypot(at[0] - from[0], at[1] - from[1]) > 3 * own.px();
      if (doing.what === 'outline') outline.push(at);
      if (!far && !map) return;
      snap = null;
      if (doing.what === 'move') map = moved(at, event);
      if (doing.what === 'scale') map = scaled(doing.n, at, !event.shiftKey);
      if (doing.what === 'turn') map = turned(at, event.shiftKey);
    },
    up(at, event) {
      const { what } = doing;
      // A lasso ends where it began.
      const far = own.lasso ? outline.length > 3 : Math.hypot(at[0] - from[0], at[1] - from[1]) > 3 * own.px();
      if (map) own.send({ edit: 'move', items: picked.ids, map });
      else if (!far && !own.lasso) picked.point(at, own.px(), event.shiftKey);
      else if (far) {
        /** @type {[number, number, number, number]} */
        const corners = [Math.min(from[0], at[0]), Math.min(from[1], at[1]), Math.max(from[0], at[0]), Math.max(from[1], at[1])];
        const found = what === 'outline' ? picked.inOutline(outline) : picked.inBox(corners);
        if (event.shiftKey) picked.toggle(found);
        else picked.set(found);
      }
      from = null;
      if (!map) own.changed();
      doing = null;
    },
    cancel() { [from, map, doing] = [null, null, null]; },
    /** Once the program has confirmed it, the new drawing shows what was done. */
    settled() { map = null; },
    /** What is picked; drawn again only when that changes. */
    still(c, px) { outlined(c, px); },
    paint(c, px) {
      if (map) {
        c.save();
        c.transform(...map);
        // Of very many the box is enough while they move.
        if (picked.all.length < MANY) outlined(c, px);
        const [x0, y0, x1, y1] = picked.box;
        c.lineWidth = px;
        c.strokeStyle = ACCENT;
        c.strokeRect(x0, y0, x1 - x0, y1 - y0);
        c.restore();
      }
      const { box } = picked;
      if (box && !own.lasso && !own.fixed && !map) {
        c.lineWidth = px;
        c.strokeStyle = ACCENT;
        c.setLineDash([4 * px, 3 * px]);
        c.strokeRect(box[0], box[1], box[2] - box[0], box[3] - box[1]);
        c.setLineDash([]);
        for (const { at, n } of handles(box, px)) {
          c.beginPath();
          if (n === 'turn') c.arc(...at, 4.5 * px, 0, 7);
          else c.rect(at[0] - 4 * px, at[1] - 4 * px, 8 * px, 8 * px);
          c.fillStyle = '#fffdf7';
          c.fill();
          c.stroke();
        }
      }
      if (snap) mark(c, px, snap);
      if (!from || !doing) return;
      c.lineWidth = 1.2 * px;
      c.strokeStyle = ACCENT;
      c.fillStyle = 'rgb(23 120 107 / .08)';
      const band = new Path2D();
      if (doing.what === 'box') band.rect(from[0], from[1], now[0] - from[0], now[1] - from[1]);
      if (doing.what === 'outline') outline.forEach(([x, y], n) => (n ? band.lineTo(x, y) : band.moveTo(x, y)));
      c.fill(band);
      c.stroke(band);
    },
  };
}
