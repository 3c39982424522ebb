// Steps of zoom, frame by frame. Run by `node --test`.
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { between } from '../static/js/bench/glide.js';
import { toMm, zoomAt } from '../static/js/bench/transform.js';

test('a step of zoom keeps what is under the cursor all the way', () => {
  const from = { scale: 3, x: 40, y: -20 };
  const to = zoomAt(from, 1.25, 310, 120);
  const [x, y] = toMm(from, 310, 120);
  for (const part of [0.1, 0.35, 0.8, 1]) {
    const [x2, y2] = toMm(between(from, to, part), 310, 120);
    assert.ok(Math.hypot(x - x2, y - y2) < 1e-9, `at ${part}`);
  }
});

test('a view is reached where only the place changes', () => {
  const [from, to] = [{ scale: 2, x: 0, y: 0 }, { scale: 2, x: 30, y: -8 }];
  assert.deepEqual(between(from, to, 0.5), { scale: 2, x: 15, y: -4 });
});
