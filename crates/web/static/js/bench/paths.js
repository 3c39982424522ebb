// Paths as the server sends them, made ready to be drawn and pointed at. All lengths mm.
// A path: { start: [x, y], to: [[x, y] | [x, y, bulge] | [x1, y1, x2, y2, x, y]], closed }.

/** Where a segment's figures lead. */
export const end = (figures) => (figures.length === 6 ? figures.slice(4) : figures.slice(0, 2));

/** Segments of a path: { from, to, bulge } or { from, to, c1, c2 }; a line has neither. */
export function segmentsOf(path) {
  let from = path.start;
  const segments = path.to.map((figures) => {
    const segment = { from, to: end(figures) };
    if (figures.length === 3) [, , segment.bulge] = figures;
    if (figures.length === 6) Object.assign(segment, { c1: figures.slice(0, 2), c2: figures.slice(2, 4) });
    from = segment.to;
    return segment;
  });
  const [x, y] = path.start;
  if (path.closed && Math.hypot(from[0] - x, from[1] - y) > 1e-6) segments.push({ from, to: path.start });
  return segments;
}

/** Path data of segments. A bulge is the tangent of a quarter of an arc's sweep. */
export function dataOf(segments, closed) {
  if (!segments.length) return '';
  let d = `M${segments[0].from.join(' ')}`;
  for (const { to, bulge, c1, c2, from } of segments) {
    if (c1) d += `C${[...c1, ...c2, ...to].join(' ')}`;
    else if (bulge) {
      const chord = Math.hypot(to[0] - from[0], to[1] - from[1]);
      const r = (chord * (1 + bulge * bulge)) / (4 * Math.abs(bulge));
      d += `A${r} ${r} 0 ${Math.abs(bulge) > 1 ? 1 : 0} ${bulge > 0 ? 1 : 0} ${to.join(' ')}`;
    } else d += `L${to.join(' ')}`;
  }
  return closed ? `${d}Z` : d;
}

/** The place on a segment at a parameter, 0 to 1. */
export function placeOn({ from, to, c1, c2, bulge }, t) {
  const u = 1 - t;
  if (c1) return [0, 1].map((i) => u * u * u * from[i] + 3 * u * u * t * c1[i] + 3 * u * t * t * c2[i] + t * t * t * to[i]);
  if (!bulge) return [0, 1].map((i) => u * from[i] + t * to[i]);
  const off = (1 - bulge * bulge) / (4 * bulge);
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const middle = [(from[0] + to[0]) / 2 - dy * off, (from[1] + to[1]) / 2 + dx * off];
  const turn = 4 * Math.atan(bulge) * t;
  const [x, y] = [from[0] - middle[0], from[1] - middle[1]];
  const [sin, cos] = [Math.sin(turn), Math.cos(turn)];
  return [middle[0] + x * cos - y * sin, middle[1] + x * sin + y * cos];
}

const gap = (a, b) => Math.hypot(a[0] - b[0], a[1] - b[1]);

/** The place on segments nearest to a point: { segment, t, at, off }. Sampled, then closed in upon. */
export function nearest(segments, point, within = Infinity) {
  let best = null;
  segments.forEach((segment, n) => {
    const steps = segment.c1 || segment.bulge ? 16 : 1;
    for (let k = 0; k < steps; k += 1) {
      let [low, high] = [k / steps, (k + 1) / steps];
      const [a, b] = [placeOn(segment, low), placeOn(segment, high)];
      const reach = gap(a, b);
      if (Math.min(gap(a, point), gap(b, point)) > reach + Math.min(within, best?.off ?? Infinity)) continue;
      for (let round = 0; round < 32; round += 1) {
        const third = (high - low) / 3;
        if (gap(placeOn(segment, low + third), point) < gap(placeOn(segment, high - third), point)) high -= third;
        else low += third;
      }
      const t = (low + high) / 2;
      const at = placeOn(segment, t);
      const off = gap(at, point);
      if (off <= within && off < (best?.off ?? Infinity)) best = { segment: n, t, at, off };
    }
  });
  return best;
}

/** An item of the server, ready to be drawn; its segments are made when somebody asks for them. */
export function item(data) {
  const made = { ...data };
  const later = (name, make) => {
    let value;
    Object.defineProperty(made, name, { get: () => (value ??= make()) });
  };
  later('segments', () => data.paths.map(segmentsOf));
  later('path', () => new Path2D(made.segments.map((s, n) => dataOf(s, data.paths[n].closed)).join('')));
  return made;
}

/** Nodes of a path, the end of an open one too. */
export function nodesOf(segments, closed) {
  const nodes = segments.map((s) => s.from);
  if (!closed && segments.length) nodes.push(segments.at(-1).to);
  return nodes;
}
