// How the bench is looked at. Run by `node --test`.
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { mmPerPixel, see } from '../static/js/bench/sight.js';

test('a pixel is as wide as the bench was last drawn, each bench by itself', () => {
  const [one, other] = [/** @type {any} */ ({}), /** @type {any} */ ({})];
  assert.equal(mmPerPixel(one), 1);
  see(one, { scale: 4, x: 0, y: 0 });
  see(other, { scale: 0.5, x: 9, y: 9 });
  assert.equal(mmPerPixel(one), 0.25);
  assert.equal(mmPerPixel(other), 2);
});
