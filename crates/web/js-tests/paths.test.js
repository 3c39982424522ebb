import assert from 'node:assert/strict';
import { test } from 'node:test';
import { dataOf, end, nearest, nodesOf, placeOn, segmentsOf } from '../static/js/bench/paths.js';

const near = (a, b) => assert.ok(Math.hypot(a[0] - b[0], a[1] - b[1]) < 1e-6, `${a} is not ${b}`);

test('a path becomes segments, closed back to its start', () => {
  const segments = segmentsOf({ start: [0, 0], to: [[10, 0], [10, 10, 1], [5, 12, 1, 11, 0, 10]], closed: true });
  assert.equal(segments.length, 4);
  assert.deepEqual(segments[3].to, [0, 0]);
  assert.equal(nodesOf(segments, true).length, 4);
  assert.equal(nodesOf(segments.slice(0, 3), false).length, 4);
  assert.equal(dataOf(segments.slice(0, 2), false), 'M0 0L10 0A5 5 0 0 1 10 10');
  assert.deepEqual(end([1, 2, 0.5]), [1, 2]);
});

test('places on an arc lie on its circle, and the nearest is found', () => {
  // Half a circle of radius 5 around (10, 5), from x towards y: it bulges to the right.
  const arc = { from: [10, 0], to: [10, 10], bulge: 1 };
  near(placeOn(arc, 0.5), [15, 5]);
  const found = nearest([{ from: [0, 0], to: [10, 0] }, arc], [20, 5]);
  assert.equal(found.segment, 1);
  assert.ok(Math.hypot(found.at[0] - 15, found.at[1] - 5) < 1e-4);
  assert.ok(Math.abs(found.off - 5) < 1e-4);
  assert.equal(nearest([arc], [40, 5], 3), null);
});
