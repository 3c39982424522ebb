// Tools that decide what is asked of the program: which edit a gesture becomes, and what a place snaps to.
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { snapped } from '../static/js/bench/snap.js';
import { segmentsOf } from '../static/js/bench/paths.js';
import { bridgeTool } from '../static/js/layers/bridgetool.js';
import { stepAt, toolAt } from '../static/js/sheet/player.js';
import { nodeTool } from '../static/js/tidy/nodetool.js';

/** A square with its corner at x, 0, 10 mm wide, as the tools see it. */
function square(id, x) {
  const path = { start: [x, 0], to: [[x + 10, 0], [x + 10, 10], [x, 10]], closed: true };
  return { id, paths: [path], segments: [segmentsOf(path)], bounds: [x, 0, x + 10, 10] };
}

/** The node tool in hand over items that are all picked; what it sends is kept. */
function nodes(items) {
  const sent = [];
  const picked = { items, all: items, ids: items.map((i) => i.id), of: (id) => items.find((i) => i.id === id), point() {} };
  const own = { px: () => 0.1, snaps: {}, grid: 5, changed() {}, send: (edit) => sent.push(edit), keep: () => 'smooth' };
  return { tool: nodeTool(picked, own), sent };
}
const plain = { shiftKey: false, altKey: false };
const box = (tool, from, to) => { tool.down(from, plain); tool.move(to); tool.up(to, plain); };
const drag = (tool, from, to) => { tool.down(from, plain); tool.move(to); tool.up(to, plain); };

test('nodes of one path that are dragged are one edit of that path', () => {
  const { tool, sent } = nodes([square(1, 0)]);
  box(tool, [-1, -1], [11, 1]);
  drag(tool, [0, 0], [0, -3]);
  assert.deepEqual(sent, [{ edit: 'nodes', item: 1, path: 0, change: { do: 'move', nodes: [0, 1], by: [0, -3] } }]);
});

test('nodes of three shapes that are dragged, or deleted, are one edit', () => {
  const { tool, sent } = nodes([square(1, 0), square(2, 20), square(3, 40)]);
  box(tool, [-1, -1], [51, 1]);
  drag(tool, [20, 0], [20, -3]);
  assert.equal(sent.length, 1);
  assert.equal(sent[0].edit, 'nodes-together');
  assert.deepEqual(sent[0].changes.map((c) => [c.item, c.path, c.change.nodes]), [[1, 0, [0, 1]], [2, 0, [0, 1]], [3, 0, [0, 1]]]);
  assert.equal(tool.act('delete'), '');
  assert.equal(sent.length, 2);
  assert.deepEqual(sent[1].changes.map((c) => c.change.do), ['delete', 'delete', 'delete']);
});

test('a finger takes a node from 22 px away, a mouse does not', () => {
  // 1 px is 0.1 mm here: the place lies 20 px off the node.
  const [from, to] = [[-2, 0], [-2, -4]];
  const by = (pointerType) => {
    const { tool, sent } = nodes([square(1, 0)]);
    const event = { ...plain, pointerType };
    tool.down(from, event);
    tool.move(to);
    tool.up(to, event);
    return sent.map((s) => s.change.nodes);
  };
  assert.deepEqual(by('touch'), [[0]]);
  assert.deepEqual(by('mouse'), []);
});

test('a click moves nothing, and a tool without nodes says what to pick', () => {
  const { tool, sent } = nodes([square(1, 0)]);
  drag(tool, [0, 0], [0.1, 0]);
  assert.deepEqual(sent, []);
  const other = nodes([square(1, 0)]);
  assert.match(other.tool.act('smooth'), /Pick a node first/);
  assert.match(other.tool.act('to-arc'), /Click on a segment first/);
});

test('a place snaps to nodes before edges, and to nothing that is far or switched off', () => {
  const around = { items: [square(1, 0)], grid: 5 };
  const all = { nodes: true, edges: true, grid: true, straight: true };
  assert.deepEqual(snapped([10.5, 0.2], 0.1, all, around), { at: [10, 0], by: 'node' });
  const edge = snapped([4, 0.3], 0.1, { ...all, nodes: false }, around);
  assert.equal(edge.by, 'edge');
  assert.ok(Math.hypot(edge.at[0] - 4, edge.at[1]) < 1e-4);
  assert.deepEqual(snapped([20.3, 19.8], 0.1, all, around), { at: [20, 20], by: 'grid' });
  assert.deepEqual(snapped([30, 12.3], 0.1, { straight: true }, { ...around, from: [18, 12] }), { at: [30, 12], by: 'level' });
  assert.deepEqual(snapped([10.5, 0.2], 0.1, {}, around), { at: [10.5, 0.2], by: null });
  assert.equal(snapped([12, 2], 0.1, all, around).by, null);
});

test('a bridge is drawn where there is none, moved by its middle, and turned by an end', () => {
  const did = [];
  const tool = bridgeTool({
    px: () => 0.1,
    bridges: () => [[0, 0, 10, 0]],
    draw: (line) => did.push(['draw', line]),
    move: (n, line) => did.push(['move', n, line]),
    remove: (n) => did.push(['remove', n]),
  });
  const go = (from, to) => { tool.down(from); tool.move(to); tool.up(to); };
  go([20, 20], [30, 20]);
  go([5, 0.5], [5, 4.5]);
  go([10, 0], [10, 3]);
  go([20, 20], [20.1, 20]);
  tool.down([5, 0]);
  tool.up([5, 0]);
  tool.act('delete');
  assert.deepEqual(did, [
    ['draw', [20, 20, 30, 20]],
    ['move', 0, [0, 4, 10, 4]],
    ['move', 0, [0, 0, 10, 3]],
    ['remove', 0],
  ]);
});

test('the run-through is on its way, on its path, and back again', () => {
  // A way of 2 s to a line of 4 s, then one of 1 s to a line of 1 s; home again at 10 s.
  const plan = {
    home: [0, 100],
    seconds: 10,
    steps: [
      { points: [[0, 0, 0], [8, 0, 4]], times: [0, 2, 6] },
      { points: [[8, 10, 0], [8, 20, 1]], times: [6, 7, 8] },
    ],
  };
  assert.equal(stepAt(plan, 5.9), 0);
  assert.equal(stepAt(plan, 6.1), 1);
  assert.deepEqual(toolAt(plan, 1), { n: 0, at: [0, 50], cuts: false });
  assert.deepEqual(toolAt(plan, 3), { n: 0, at: [2, 0], cuts: true });
  assert.deepEqual(toolAt(plan, 6.5), { n: 1, at: [8, 5], cuts: false });
  assert.deepEqual(toolAt(plan, 9), { n: 1, at: [4, 60], cuts: false });
});
