// The tool for nodes: pick, move, insert; handles; segments. What it does is asked of the program.
import { dataOf, nearest, nodesOf } from '../bench/paths.js';
import { mark, snapped } from '../bench/snap.js';
import { nameOf, stepOf, wayOf } from '../keys.js';

const ACCENT = '#17786b';
/** How near a node, a handle or a segment is pressed, px: with a mouse, with a finger. */
const REACH = 8;
const FINGER = 22;
/** By how much a key turns a handle. */
const TURN = Math.PI / 36;

const gap = (a, b) => Math.hypot(a[0] - b[0], a[1] - b[1]);
const plus = (p, by) => [p[0] + by[0], p[1] + by[1]];

/**
 * @param {import('../bench/picked.js').Picked} picked
 * @param {object} own { px, snaps, grid, changed, send, keep }
 */
export function nodeTool(picked, own) {
  /** Picked nodes: { id, path, node }. */
  let nodes = [];
  /** The picked segment: { id, path, segment, t }. */
  let segment = null;
  let doing = null;
  let snap = null;
  let waits = null;
  let reach = REACH;

  const is = (a, b) => a.id === b.id && a.path === b.path && a.node === b.node;
  const pathOf = ({ id, path }) => {
    const item = picked.of(id);
    return item && { segments: item.segments[path], closed: item.paths[path].closed };
  };
  const placeOf = (n) => {
    const path = pathOf(n);
    return path && nodesOf(path.segments, path.closed)[n.node];
  };
  /** Nodes near a place, of what is picked. */
  const nodeAt = (at, px) => {
    let best = null;
    for (const item of picked.all) {
      item.segments.forEach((segments, path) => nodesOf(segments, item.paths[path].closed).forEach((p, node) => {
        const off = gap(p, at);
        if (off < reach * px && off < (best?.off ?? Infinity)) best = { id: item.id, path, node, off };
      }));
    }
    return best;
  };
  /** Handles of the picked nodes: { of, after, from, at }. */
  const handles = () => nodes.flatMap((n) => {
    const path = pathOf(n);
    if (!path) return [];
    const count = path.segments.length;
    const before = path.segments[path.closed ? (n.node + count - 1) % count : n.node - 1];
    const after = path.segments[n.node];
    const own_ = [];
    if (before?.c2) own_.push({ of: n, after: false, from: before.to, at: before.c2 });
    if (after?.c1) own_.push({ of: n, after: true, from: after.from, at: after.c1 });
    return own_;
  });
  const segmentAt = (at, px) => {
    let best = null;
    for (const item of picked.all) {
      item.segments.forEach((segments, path) => {
        const found = nearest(segments, at, reach * px);
        if (found && found.off < (best?.off ?? Infinity)) best = { id: item.id, path, segment: found.segment, t: found.t, off: found.off };
      });
    }
    return best;
  };
  const send = (of, change) => own.send({ edit: 'nodes', item: of.id, path: of.path, change });
  /** One gesture is one step, on however many paths. */
  const sendAll = (changeOf) => {
    const changes = byPath().map((of) => ({ item: of.id, path: of.path, change: changeOf(of) }));
    if (changes.length === 1) own.send({ edit: 'nodes', ...changes[0] });
    else own.send({ edit: 'nodes-together', changes });
  };
  /** Picked nodes by path. */
  const byPath = () => {
    const paths = new Map();
    for (const n of nodes) {
      const key = `${n.id} ${n.path}`;
      if (!paths.has(key)) paths.set(key, { id: n.id, path: n.path, nodes: [] });
      paths.get(key).nodes.push(n.node);
    }
    return [...paths.values()];
  };

  /** Segments of a path with its picked nodes moved. */
  function moved(of, by) {
    const path = pathOf(of);
    const count = nodesOf(path.segments, path.closed).length;
    const goes = (n) => of.nodes.includes(n % count);
    return path.segments.map((s, n) => {
      const [a, b] = [goes(n), goes(n + 1)];
      const with_ = { ...s };
      if (a) { with_.from = plus(s.from, by); if (s.c1) with_.c1 = plus(s.c1, by); }
      if (b) { with_.to = plus(s.to, by); if (s.c2) with_.c2 = plus(s.c2, by); }
      return with_;
    });
  }

  const tool = {
    cursor: 'default',
    down(at, event) {
      const px = own.px();
      snap = null;
      reach = event.pointerType === 'touch' ? FINGER : REACH;
      const [handle] = handles().filter((h) => gap(h.at, at) < reach * px).sort((a, b) => gap(a.at, at) - gap(b.at, at));
      const node = nodeAt(at, px);
      // Under a finger lie both: the nearer one is meant.
      if (handle && (!node || gap(handle.at, at) <= node.off)) { doing = { what: 'handle', handle, at: handle.at, alone: event.altKey }; return; }
      if (node) {
        segment = null;
        const there = nodes.some((n) => is(n, node));
        if (event.shiftKey) nodes = there ? nodes.filter((n) => !is(n, node)) : [...nodes, node];
        else if (!there) nodes = [node];
        doing = { what: 'move', from: at, start: placeOf(node), by: null };
        return;
      }
      doing = { what: 'box', from: at, at, add: event.shiftKey };
    },
    move(at) {
      const px = own.px();
      const skip = new Set(picked.ids);
      const draw = (place, from) => {
        snap = snapped(place, px, own.snaps, { items: picked.items, skip, from, grid: own.grid });
        return snap.at;
      };
      if (doing.what === 'handle') doing.at = draw(at, doing.handle.from);
      if (doing.what === 'box') doing.at = at;
      if (doing.what === 'move' && (doing.by || gap(at, doing.from) > 3 * px)) {
        const place = draw(plus(doing.start, [at[0] - doing.from[0], at[1] - doing.from[1]]), doing.start);
        doing.by = [place[0] - doing.start[0], place[1] - doing.start[1]];
      }
    },
    up(at, event) {
      const px = own.px();
      const did = doing;
      doing = null;
      snap = null;
      if (did.what === 'handle') {
        waits = did;
        const { of, after } = did.handle;
        send(of, { do: 'handle', node: of.node, after, to: did.at, keep: own.keep(), alone: did.alone });
      }
      if (did.what === 'move' && did.by) {
        waits = did;
        sendAll((of) => ({ do: 'move', nodes: of.nodes, by: did.by }));
      }
      if (did.what !== 'box') {
        own.changed();
        return;
      }
      if (gap(did.from, at) > 3 * px) {
        const inside = (p) => p[0] >= Math.min(did.from[0], at[0]) && p[0] <= Math.max(did.from[0], at[0])
          && p[1] >= Math.min(did.from[1], at[1]) && p[1] <= Math.max(did.from[1], at[1]);
        const found = picked.all.flatMap((item) => item.segments.flatMap((segments, path) => nodesOf(segments, item.paths[path].closed)
          .flatMap((p, node) => (inside(p) ? [{ id: item.id, path, node }] : []))));
        nodes = did.add ? [...nodes, ...found] : found;
        segment = null;
      } else {
        const found = segmentAt(at, px);
        segment = found;
        if (!event.shiftKey) nodes = [];
        // Elsewhere it picks another shape.
        if (!found) picked.point(at, px, event.shiftKey);
      }
      own.changed();
    },
    twice(at) {
      const found = segmentAt(at, own.px());
      if (found && !nodeAt(at, own.px())) send(found, { do: 'insert', segment: found.segment, t: found.t });
    },
    cancel() { doing = null; snap = null; },
    settled(told) {
      waits = null;
      // Numbers of nodes and segments are others where some came or went.
      if (told) { nodes = []; segment = null; }
      nodes = nodes.filter((n) => placeOf(n));
      if (segment && !pathOf(segment)?.segments?.[segment.segment]) segment = null;
    },
    /** Something the Nodes buttons ask for; a refusal in words. */
    act(name) {
      const [first, second] = nodes;
      if (['delete', 'smooth', 'corner'].includes(name)) {
        if (!first) return 'Pick a node first.';
        sendAll((of) => ({ do: name, nodes: of.nodes }));
        return '';
      }
      if (name === 'break') return first ? (send(first, { do: name, node: first.node }), '') : 'Pick a node first.';
      if (name === 'join') {
        if (!second) return 'Pick two ends first, the second one with Shift.';
        own.send({ edit: 'join-ends', ends: [first, second].map((n) => [n.id, n.node > 0]) });
        return '';
      }
      if (['close', 'reverse', 'make-smooth'].includes(name)) {
        const of = first ?? segment ?? (picked.all[0] && { id: picked.all[0].id, path: 0 });
        return of ? (send(of, { do: name }), '') : 'Pick a path first.';
      }
      if (!segment) return 'Click on a segment first.';
      if (name === 'insert') send(segment, { do: name, segment: segment.segment, t: 0.5 });
      else send(segment, { do: name, segment: segment.segment });
      return '';
    },
    /**
     * Keys of the bench: nodes one after the other, moved, and their handles turned.
     * @param {KeyboardEvent} event
     * @returns {boolean} whether it was meant for nodes
     */
    key(event) {
      const name = nameOf(event, 'nodes');
      if (name === 'next' || name === 'previous') {
        const all = picked.all.flatMap((item) => item.segments.flatMap((segments, path) => nodesOf(segments, item.paths[path].closed).map((_, node) => ({ id: item.id, path, node }))));
        const at = all.findIndex((n) => nodes.length > 0 && is(n, nodes.at(-1)));
        const to = at + (name === 'next' ? 1 : -1);
        // Past the last one the key leaves the bench.
        if (to < 0 || to >= all.length) return false;
        nodes = [all[to]];
        segment = null;
        own.changed();
        return true;
      }
      if (!nodes.length) return false;
      if (name === 'nudge') {
        const by = wayOf(event).map((v) => v * stepOf(event));
        sendAll((of) => ({ do: 'move', nodes: of.nodes, by }));
        return true;
      }
      const turn = { 'turn-left': -TURN, 'turn-right': TURN }[name];
      const handle = turn && handles().find((h) => is(h.of, nodes.at(-1)));
      if (!handle) return false;
      const [dx, dy] = [handle.at[0] - handle.from[0], handle.at[1] - handle.from[1]];
      const [sin, cos] = [Math.sin(turn), Math.cos(turn)];
      const to = [handle.from[0] + dx * cos - dy * sin, handle.from[1] + dx * sin + dy * cos];
      send(handle.of, { do: 'handle', node: handle.of.node, after: handle.after, to, keep: 'length', alone: false });
      return true;
    },
    get told() {
      if (segment) return 'One segment is picked.';
      if (!nodes.length) return '';
      return nodes.length === 1 ? 'One node is picked.' : `${nodes.length} nodes are picked.`;
    },
    get holds() { return nodes.length > 0 || segment !== null; },
    /** What is picked with its nodes; drawn again only when that changes. */
    still(c, px, { seen }) {
      c.lineWidth = 1.6 * px;
      c.strokeStyle = ACCENT;
      for (const item of picked.all) c.stroke(item.path);
      // Only what is in sight.
      const visible = ([x, y]) => x > seen[0] && x < seen[2] && y > seen[1] && y < seen[3];
      c.beginPath();
      const half = 2.8 * px;
      for (const item of picked.all) {
        item.segments.forEach((segments, path) => {
          for (const [x, y] of nodesOf(segments, item.paths[path].closed)) {
            if (visible([x, y])) c.rect(x - half, y - half, 2 * half, 2 * half);
          }
        });
      }
      c.fillStyle = '#fffdf7';
      c.strokeStyle = ACCENT;
      c.lineWidth = 1.2 * px;
      c.fill();
      c.stroke();
    },
    paint(c, px) {
      const half = 2.8 * px;
      const active = doing ?? waits;
      if (active?.what === 'move' && active.by) {
        c.lineWidth = 1.4 * px;
        c.strokeStyle = '#8a5600';
        for (const of of byPath()) c.stroke(new Path2D(dataOf(moved(of, active.by), pathOf(of).closed)));
      }
      if (segment && pathOf(segment)) {
        c.lineWidth = 3.5 * px;
        c.strokeStyle = '#8a5600';
        const own_ = pathOf(segment).segments[segment.segment];
        if (own_) c.stroke(new Path2D(dataOf([own_], false)));
      }
      c.fillStyle = c.strokeStyle = ACCENT;
      for (const n of nodes) {
        const p = placeOf(n);
        if (p) c.fillRect(p[0] - 1.3 * half, p[1] - 1.3 * half, 2.6 * half, 2.6 * half);
      }
      c.lineWidth = px;
      for (const h of handles()) {
        const at = active?.what === 'handle' && active.handle.of.node === h.of.node && active.handle.after === h.after ? active.at : h.at;
        c.beginPath();
        c.moveTo(...h.from);
        c.lineTo(...at);
        c.stroke();
        c.beginPath();
        c.arc(...at, 3.2 * px, 0, 7);
        c.fill();
      }
      if (doing?.what === 'box') {
        c.strokeStyle = ACCENT;
        c.strokeRect(doing.from[0], doing.from[1], doing.at[0] - doing.from[0], doing.at[1] - doing.from[1]);
      }
      if (snap) mark(c, px, snap);
    },
  };
  return tool;
}
