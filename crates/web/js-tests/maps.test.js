// Figures typed of what is picked. Run by `node --test`.
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { flipped, typed } from '../static/js/tidy/maps.js';

/** @type {[number, number, number, number]} */
const box = [10, 20, 30, 60];
const at = ([a, b, c, d, e, f], [x, y]) => [a * x + c * y + e, b * x + d * y + f];
const near = (found, wanted) => found.every((v, n) => Math.abs(v - wanted[n]) < 1e-9);

test('a typed side is what it becomes, the corner at the upper left stays', () => {
  assert.ok(near(at(typed('x', 5, box), [10, 20]), [5, 20]));
  assert.ok(near(at(typed('y', 5, box), [10, 20]), [10, 5]));
  for (const [side, far] of [['w', [50, 60]], ['h', [30, 60]]]) {
    const map = typed(side, 40, box);
    assert.ok(near(at(map, [10, 20]), [10, 20]) && near(at(map, [30, 60]), far), side);
  }
});

test('turning and mirroring keep the middle', () => {
  for (const map of [typed('turn', 90, box), flipped(true, box), flipped(false, box)]) assert.ok(near(at(map, [20, 40]), [20, 40]));
  assert.ok(near(at(typed('turn', 90, box), [30, 40]), [20, 50]), 'to the right, y down');
  assert.ok(near(at(flipped(true, box), [10, 20]), [30, 20]));
});
