// Where the pointer is drawn to: nodes, edges, the grid, level and upright; each can be switched off.
import { nearest } from './paths.js';

const REACH = 9;
const KINDS = ['nodes', 'edges', 'grid', 'straight'];

/** The switches, kept from one visit to the next. */
export function switches(element) {
  const kept = JSON.parse(localStorage.getItem('snap') ?? '{"nodes":true,"straight":true}');
  for (const kind of KINDS) {
    const box = element.querySelector(`[data-snap="${kind}"]`);
    box.checked = Boolean(kept[kind]);
    box.addEventListener('change', () => {
      kept[kind] = box.checked;
      localStorage.setItem('snap', JSON.stringify(kept));
    });
  }
  return kept;
}

/**
 * The place a pointer is drawn to, and by what.
 * @param {[number, number]} at mm
 * @param {number} px a screen pixel in mm
 * @param {object} on the switches
 * @param {{items: object[], skip?: Set<number>, from?: ?[number, number], grid: number}} around
 * @returns {{at: [number, number], by: ?string}}
 */
export function snapped(at, px, on, { items, skip = new Set(), from = null, grid }) {
  const reach = REACH * px;
  const near = items.filter((i) => !skip.has(i.id) && at[0] > i.bounds[0] - reach && at[0] < i.bounds[2] + reach
    && at[1] > i.bounds[1] - reach && at[1] < i.bounds[3] + reach);
  const gap = (p) => Math.hypot(p[0] - at[0], p[1] - at[1]);
  if (on.nodes) {
    const nodes = near.flatMap((i) => i.segments.flatMap((own) => own.flatMap((s) => [s.from, s.to])));
    const best = nodes.reduce((b, p) => (gap(p) < gap(b) ? p : b), [Infinity, Infinity]);
    if (gap(best) <= reach) return { at: best, by: 'node' };
  }
  if (on.edges) {
    const found = near.flatMap((i) => i.segments.map((own) => nearest(own, at, reach))).filter(Boolean);
    const best = found.reduce((b, f) => (f.off < (b?.off ?? Infinity) ? f : b), null);
    if (best) return { at: best.at, by: 'edge' };
  }
  if (on.straight && from) {
    const [dx, dy] = [Math.abs(at[0] - from[0]), Math.abs(at[1] - from[1])];
    if (dy <= reach / 2 && dx > dy) return { at: [at[0], from[1]], by: 'level' };
    if (dx <= reach / 2 && dy > dx) return { at: [from[0], at[1]], by: 'upright' };
  }
  if (on.grid) {
    const onLine = (v) => Math.round(v / grid) * grid;
    const place = [onLine(at[0]), onLine(at[1])];
    if (gap(place) <= reach) return { at: /** @type {[number, number]} */ (place), by: 'grid' };
  }
  return { at, by: null };
}

/** A small mark where something snapped. */
export function mark(c, px, { at, by }) {
  if (!by) return;
  c.strokeStyle = '#8a5600';
  c.lineWidth = 1.4 * px;
  c.beginPath();
  c.arc(at[0], at[1], 6 * px, 0, 7);
  c.stroke();
}
