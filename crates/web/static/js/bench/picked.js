// What is picked of a drawing, and how it is found under the pointer or inside an outline.
import { item } from './paths.js';

const probe = document.createElement('canvas').getContext('2d');

/** Items of a drawing in the order in which they lie, and those that are picked, in that of picking. */
export class Picked {
  constructor() {
    this.items = [];
    this.ids = [];
    this.last = null;
  }

  /** Another drawing; what is picked stays picked where it is still there. */
  show(items) {
    this.items = items.map(item);
    const there = new Set(items.map((i) => i.id));
    this.ids = this.ids.filter((id) => there.has(id));
  }

  of(id) { return this.items.find((i) => i.id === id); }

  get all() { return this.ids.map((id) => this.of(id)).filter(Boolean); }

  has(id) { return this.ids.includes(id); }

  /** Whole groups, each id once. */
  whole(ids) {
    const groups = new Set(ids.map((id) => this.of(id)?.group).filter((g) => g !== undefined));
    const more = this.items.filter((i) => groups.has(i.group)).map((i) => i.id);
    return [...new Set([...ids, ...more])];
  }

  set(ids) {
    this.ids = this.whole(ids);
    this.last = null;
  }

  toggle(ids) {
    const whole = this.whole(ids);
    const there = whole.every((id) => this.has(id));
    this.ids = there ? this.ids.filter((id) => !whole.includes(id)) : [...new Set([...this.ids, ...whole])];
  }

  /** Items under a place, the uppermost first; `px` is a screen pixel in mm. */
  under([x, y], px) {
    const reach = 5 * px;
    probe.lineWidth = 2 * reach;
    return this.items.filter((i) => {
      const [x0, y0, x1, y1] = i.bounds;
      if (x < x0 - reach || x > x1 + reach || y < y0 - reach || y > y1 + reach) return false;
      return (i.pen === undefined && probe.isPointInPath(i.path, x, y, 'evenodd')) || probe.isPointInStroke(i.path, x, y);
    }).reverse();
  }

  /** Picks what lies under a place; on the same place again, what lies under that. */
  point(at, px, add) {
    const found = this.under(at, px);
    const same = this.last && Math.hypot(at[0] - this.last.at[0], at[1] - this.last.at[1]) < 3 * px;
    const turn = same && found.length ? (this.last.turn + 1) % found.length : 0;
    if (!found.length) {
      if (!add) this.ids = [];
      return;
    }
    const ids = [found[turn].id];
    if (add) this.toggle(ids);
    else this.set(ids);
    this.last = { at, turn };
  }

  /**
   * Picks as a key of the bench says: the next one, the one before, all.
   * @param {?string} name of the key, as in the table of keys
   * @returns {boolean} whether it did; past the last one it does not, and the key leaves the bench
   */
  byKey(name) {
    const ids = this.items.map((i) => i.id);
    if (name === 'all') { this.set(ids); return true; }
    if (name !== 'next' && name !== 'previous') return false;
    const next = ids.indexOf(this.ids.at(-1) ?? -1) + (name === 'next' ? 1 : -1);
    if (next < 0 || next >= ids.length) return false;
    this.ids = [ids[next]];
    return true;
  }

  /** Items whose box lies in a box. */
  inBox([x0, y0, x1, y1]) {
    return this.items.filter(({ bounds: b }) => b[0] >= x0 && b[1] >= y0 && b[2] <= x1 && b[3] <= y1).map((i) => i.id);
  }

  /** Items whose nodes all lie in an outline. */
  inOutline(points) {
    const outline = new Path2D(`M${points.map((p) => p.join(' ')).join('L')}Z`);
    const inside = ([x, y]) => probe.isPointInPath(outline, x, y, 'evenodd');
    return this.items.filter((i) => i.segments.flat().every((s) => inside(s.from) && inside(s.to))).map((i) => i.id);
  }

  /** Items that lie inside the picked ones. */
  inside() {
    const [outer] = this.all;
    if (!outer) return [];
    const [x0, y0, x1, y1] = outer.bounds;
    const within = this.inBox([x0, y0, x1, y1]).filter((id) => id !== outer.id);
    const ring = new Path2D(outer.path);
    return within.filter((id) => this.of(id).segments[0].every((s) => probe.isPointInPath(ring, s.from[0], s.from[1], 'nonzero')
      || probe.isPointInPath(outerOf(outer), s.from[0], s.from[1])));
  }

  /** The box around what is picked; `null` with nothing. */
  get box() {
    const boxes = this.all.map((i) => i.bounds);
    if (!boxes.length) return null;
    return boxes.reduce((a, b) => [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[2], b[2]), Math.max(a[3], b[3])]);
  }
}

/** The outer ring of a shape alone, so that its holes count as inside. */
function outerOf(shape) {
  const path = new Path2D();
  shape.segments[0].forEach((s, n) => {
    const [x, y] = s.to;
    if (n === 0) path.moveTo(s.from[0], s.from[1]);
    if (s.c1) path.bezierCurveTo(s.c1[0], s.c1[1], s.c2[0], s.c2[1], x, y);
    else path.lineTo(x, y);
  });
  path.closePath();
  return path;
}
