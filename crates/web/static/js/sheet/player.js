// The run-through: where the tool is at a time, what it has cut by then and what it travelled. Seconds and mm.

/** Place among points [x, y, t] at a time. */
function along(points, t) {
  if (!points.length) return null;
  let [low, high] = [0, points.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (points[middle][2] < t) low = middle + 1; else high = middle;
  }
  const b = points[low];
  const a = points[Math.max(0, low - 1)];
  const part = b[2] > a[2] ? Math.min(1, Math.max(0, (t - a[2]) / (b[2] - a[2]))) : 1;
  return { n: low, at: [a[0] + (b[0] - a[0]) * part, a[1] + (b[1] - a[1]) * part] };
}

/** The step that is run at a time, by bisection; the last one when all are done. */
export function stepAt(plan, t) {
  let [low, high] = [0, plan.steps.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (plan.steps[middle].times[2] < t) low = middle + 1; else high = middle;
  }
  return low;
}

const first = (step) => step.points[0] ?? [0, 0, 0];
const last = (step) => step.points[step.points.length - 1] ?? [0, 0, 0];

/** Where the tool is at a time, and whether it cuts. */
export function toolAt(plan, t) {
  const n = stepAt(plan, t);
  const step = plan.steps[n];
  if (!step) return { n: 0, at: plan.home, cuts: false };
  const from = n ? last(plan.steps[n - 1]) : plan.home;
  const between = (a, b, part) => [a[0] + (b[0] - a[0]) * part, a[1] + (b[1] - a[1]) * part];
  const [begins, cuts, ends] = step.times;
  if (t < cuts) return { n, at: between(from, first(step), (t - begins) / Math.max(cuts - begins, 1e-9)), cuts: false };
  if (t <= ends) return { n, at: along(step.points, t - cuts).at, cuts: true };
  return { n, at: between(last(step), plan.home, (t - ends) / Math.max(plan.seconds - ends, 1e-9)), cuts: false };
}

function follow(path, step, t = Infinity) {
  const found = t === Infinity ? null : along(step.points, t);
  const points = found ? step.points.slice(0, found.n) : step.points;
  points.forEach(([x, y], k) => {
    // Of rows the tool is on in every second stretch alone.
    if (k === 0 || (step.rows && k % 2 === 0)) path.moveTo(x, y); else path.lineTo(x, y);
  });
  if (found && points.length) path.lineTo(...found.at);
}

/** Draws what is done at a time over a sheet; paths done are kept from frame to frame. */
export class Run {
  constructor(plan) {
    this.plan = plan;
    this.done = new Path2D();
    this.ways = new Path2D();
    this.upTo = 0;
  }

  #take(n) {
    if (n < this.upTo) Object.assign(this, { done: new Path2D(), ways: new Path2D(), upTo: 0 });
    for (; this.upTo < n; this.upTo += 1) {
      const step = this.plan.steps[this.upTo];
      const from = this.upTo ? last(this.plan.steps[this.upTo - 1]) : this.plan.home;
      this.ways.moveTo(from[0], from[1]);
      const [x, y] = first(step);
      this.ways.lineTo(x, y);
      follow(this.done, step);
    }
  }

  paint(c, t, px) {
    const { n, at, cuts } = toolAt(this.plan, t);
    const step = this.plan.steps[n];
    if (!step) return;
    this.#take(t > step.times[2] ? n + 1 : n);
    c.lineJoin = c.lineCap = 'round';
    // Travel is dashed saffron, what is cut a broad line on a pale halo.
    c.strokeStyle = '#b87512';
    c.lineWidth = 1.2 * px;
    c.setLineDash([4 * px, 4 * px]);
    c.stroke(this.ways);
    if (t < step.times[2]) {
      c.beginPath();
      c.moveTo(...(n ? last(this.plan.steps[n - 1]) : this.plan.home).slice(0, 2));
      c.lineTo(...(cuts ? first(step).slice(0, 2) : at));
      c.stroke();
    }
    c.setLineDash([]);
    const now = new Path2D();
    if (cuts) follow(now, step, t - step.times[1]);
    for (const { colour, width } of [{ colour: '#fffdf7', width: 4.5 }, { colour: '#1d2545', width: 2.2 }]) {
      c.strokeStyle = colour;
      c.lineWidth = width * px;
      c.stroke(this.done);
      c.stroke(now);
    }
    c.fillStyle = cuts ? '#17786b' : '#b87512';
    c.strokeStyle = '#fffdf7';
    c.lineWidth = 2 * px;
    c.beginPath();
    c.arc(at[0], at[1], 6 * px, 0, 7);
    c.fill();
    c.stroke();
  }
}
