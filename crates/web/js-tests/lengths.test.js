import assert from 'node:assert/strict';
import { test } from 'node:test';
import { millimetres } from '../static/js/lengths.js';

test('lengths are read whatever the unit shown', () => {
  const read = [['6mm', 6], ['2,5', 2.5], ['1/4in', 6.35], ['0.25"', 6.35], ['1 1/2 in', 38.1], ['-3', -3], ['1.2cm', 12], ['.5', 0.5], ['-1 1/2in', -38.1]];
  for (const [text, mm] of read) assert.ok(Math.abs(millimetres(text, 'mm') - mm) < 1e-9, text);
  // 1 in = 25.4 mm exactly (international yard and pound agreement of 1959).
  assert.equal(millimetres('2', 'in'), 50.8);
});

test('what is no length is none', () => {
  for (const text of ['', 'wide', '1 2', '6 miles', '1/0', '1e300', '--3']) assert.ok(Number.isNaN(millimetres(text, 'mm')), text);
});
