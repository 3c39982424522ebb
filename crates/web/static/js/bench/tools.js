// Tools of the bench. Each gathers a gesture in mm on the piece and hands it on; none computes.
// A tool: { cursor, drags, hint, down, move, up, cancel, hover, leave, paint(context, px) }.

/** @typedef {[number, number]} Point a place in mm */

const INK = '#17786b';

function dashed(c, px, path) {
  c.lineWidth = 1.5 * px;
  for (const { colour, shift } of [{ colour: '#fff', shift: 0 }, { colour: INK, shift: 5 }]) {
    c.strokeStyle = colour;
    c.setLineDash([5 * px, 5 * px]);
    c.lineDashOffset = shift * px;
    c.stroke(path);
  }
  c.setLineDash([]);
}

const rectangle = ([ax, ay], [bx, by]) => {
  const path = new Path2D();
  path.rect(Math.min(ax, bx), Math.min(ay, by), Math.abs(bx - ax), Math.abs(by - ay));
  return path;
};

/** @type {(a: Point, b: Point) => Point[]} */
const corners = ([ax, ay], [bx, by]) => [[ax, ay], [bx, ay], [bx, by], [ax, by]];

/**
 * A box dragged from corner to corner; `done` gets its four corners.
 * @param {(corners: Point[]) => void} done
 * @param {{shade?: boolean, hint?: string}} [how]
 */
export function box(done, { shade = false, hint } = {}) {
  let from = null;
  let to = null;
  return {
    cursor: 'crosshair',
    drags: true,
    hint,
    down(at) { from = to = at; },
    move(at) { to = at; },
    up() {
      const sides = [Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1])];
      const found = corners(from, to);
      from = null;
      if (Math.min(...sides) > 0.05) done(found);
    },
    cancel() { from = null; },
    paint(c, px, design) {
      if (!from) return;
      const path = rectangle(from, to);
      if (shade) {
        const rest = rectangle([0, 0], [design.width, design.height]);
        rest.addPath(path);
        c.fillStyle = 'rgb(30 30 60 / .35)';
        c.fill(rest, 'evenodd');
      }
      dashed(c, px, path);
    },
  };
}

/**
 * A free outline; `done` gets its points.
 * @param {(points: Point[]) => void} done
 * @param {{hint?: string}} [how]
 */
export function outline(done, { hint } = {}) {
  let points = [];
  return {
    cursor: 'crosshair',
    drags: true,
    hint,
    down(at) { points = [at]; },
    move(at) {
      const [x, y] = points[points.length - 1];
      if (Math.hypot(at[0] - x, at[1] - y) > 0.05) points.push(at);
    },
    up() {
      const found = points;
      points = [];
      if (found.length > 2) done(found);
    },
    cancel() { points = []; },
    paint(c, px) {
      if (points.length < 2) return;
      const path = new Path2D();
      points.forEach(([x, y], n) => (n ? path.lineTo(x, y) : path.moveTo(x, y)));
      path.closePath();
      dashed(c, px, path);
    },
  };
}

/**
 * A line; `done` gets both ends.
 * @param {(from: Point, to: Point) => void} done
 * @param {{hint?: string}} [how]
 */
export function line(done, { hint } = {}) {
  let from = null;
  let to = null;
  return {
    cursor: 'crosshair',
    drags: true,
    hint,
    down(at) { from = to = at; },
    move(at) { to = at; },
    up() {
      const ends = [from, to];
      from = null;
      if (Math.hypot(ends[1][0] - ends[0][0], ends[1][1] - ends[0][1]) > 0.5) done(ends[0], ends[1]);
    },
    cancel() { from = null; },
    paint(c, px) {
      if (!from) return;
      const path = new Path2D();
      path.moveTo(from[0], from[1]);
      path.lineTo(to[0], to[1]);
      dashed(c, px, path);
    },
  };
}

/**
 * A place; `hover` is told of it before it is chosen.
 * @param {(at: Point) => void} done
 * @param {{hint?: string, hover?: (at: Point) => void, leave?: () => void,
 *   paint?: (c: CanvasRenderingContext2D, px: number, design: {width: number, height: number}) => void}} [how]
 */
export function point(done, { hint, hover = () => {}, leave = () => {}, paint = () => {} } = {}) {
  return { cursor: 'crosshair', hint, up: (at) => done(at), hover, leave, paint };
}

/**
 * A brush. Strokes are drawn at once and stay on the bench until the program has confirmed them.
 * @param {(dabs: number[][], stroke: object) => void} done gets x, y and half width of every dab
 * @param {() => {size: number, tip: string, colour: string}} options width in mm
 * @param {Set<object>} strokes those not confirmed yet
 * @param {{hint?: string}} [how]
 */
export function brush(done, options, strokes, { hint } = {}) {
  let now = null;
  let tip = null;
  const half = (event) => {
    // A mouse has no pressure to tell; a pen presses harder than nothing.
    const pressure = event.pointerType === 'pen' ? Math.max(0.1, event.pressure) : 1;
    return (options().size / 2) * pressure;
  };
  const add = (at, event) => {
    const [x, y] = now.dabs.at(-1) ?? [Infinity, Infinity];
    if (Math.hypot(at[0] - x, at[1] - y) > options().size / 40) now.dabs.push([...at, half(event)]);
  };
  const draw = (c, { dabs, tip: form, colour }) => {
    c.fillStyle = c.strokeStyle = colour;
    c.lineCap = c.lineJoin = form === 'round' ? 'round' : 'square';
    dabs.forEach(([x, y, r], n) => {
      const before = dabs[n - 1] ?? dabs[n];
      c.lineWidth = r + before[2];
      if (form === 'round') {
        c.beginPath();
        c.moveTo(before[0], before[1]);
        c.lineTo(x + 1e-6, y);
        c.stroke();
        return;
      }
      const corner = (p, a, b) => [p[0] + a * p[2], p[1] + b * p[2]];
      const way = Math.sign((x - before[0]) * (y - before[1])) || 1;
      c.beginPath();
      for (const [p, a, b] of [[before, -1, -way], [before, -1, way], [dabs[n], -1, way], [dabs[n], 1, way], [dabs[n], 1, -way], [before, 1, -way]]) c.lineTo(...corner(p, a, b));
      c.fill();
      for (const p of [before, dabs[n]]) c.fillRect(p[0] - p[2], p[1] - p[2], 2 * p[2], 2 * p[2]);
    });
  };
  return {
    cursor: 'none',
    drags: true,
    hint,
    down(at, event) {
      now = { dabs: [], ...options() };
      strokes.add(now);
      add(at, event);
    },
    move(at, event) { tip = at; add(at, event); },
    up() {
      const stroke = now;
      now = null;
      done(stroke.dabs, stroke);
    },
    cancel() { strokes.delete(now); now = null; },
    hover(at) { tip = at; },
    leave() { tip = null; },
    paint(c, px) {
      for (const stroke of strokes) draw(c, stroke);
      if (!tip) return;
      const { size, tip: form } = options();
      const path = new Path2D();
      if (form === 'round') path.arc(tip[0], tip[1], size / 2, 0, 7);
      else path.rect(tip[0] - size / 2, tip[1] - size / 2, size, size);
      c.lineWidth = 1.5 * px;
      c.strokeStyle = '#fff';
      c.stroke(path);
      c.lineWidth = px;
      c.strokeStyle = INK;
      c.stroke(path);
    },
  };
}
