// The arithmetic of the bench. Run by `node --test`.
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { TRUE_SCALE, fit, rulerStep, toMm, zoomAt } from '../static/js/bench/transform.js';

test('true scale is 96 pixels to the inch', () => {
  assert.equal(TRUE_SCALE * 25.4, 96);
});

test('a fitted design lies in the middle and fills 85 % of the tighter side', () => {
  const { scale, x, y } = fit(100, 50, 400, 400);
  for (const [found, wanted] of [[scale, 3.4], [x, 30], [y, 115]]) assert.ok(Math.abs(found - wanted) < 1e-9);
});

test('the point under the cursor stays while zooming', () => {
  const before = fit(150, 112.5, 640, 620);
  const [x, y] = toMm(before, 210, 333);
  for (const factor of [0.2, 1.1, 7]) {
    const [x2, y2] = toMm(zoomAt(before, factor, 210, 333), 210, 333);
    assert.ok(Math.abs(x - x2) < 1e-9 && Math.abs(y - y2) < 1e-9);
  }
});

test('zooming ends somewhere', () => {
  let view = { scale: 1, x: 0, y: 0 };
  for (let i = 0; i < 200; i += 1) view = zoomAt(view, 2, 0, 0);
  assert.ok(view.scale <= 2000);
});

test('labels of the ruler stand apart and are round', () => {
  for (const scale of [0.03, 0.4, 3.34, 17, 240]) {
    const step = rulerStep(scale, 56);
    assert.ok(step * scale >= 56 - 1e-6 && step * scale <= 56 * 2.5 + 1e-6, `${scale}: ${step}`);
    assert.ok([1, 2, 5, 10].some((n) => Math.abs(Math.log10(step / n) % 1) < 1e-9), `${step} is round`);
  }
});
