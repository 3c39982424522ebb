// Where the bar at the pick stands. Run by `node --test`.
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { besideOf } from '../static/js/bench/pickbar.js';

const bar = { width: 300, height: 34 };
const stage = { width: 660, height: 600 };

test('the bar stands on the first side with room and never over the pick', () => {
  const picks = [
    [200, 200, 400, 300], [200, 40, 400, 120], [40, 40, 300, 560], [360, 40, 640, 560], [-50, 100, 20, 140],
    [640, 580, 900, 700], [22, 22, 60, 598],
  ];
  for (const box of picks) {
    const at = besideOf(box, bar, stage);
    assert.ok(at, `${box} has a side with room`);
    const [x, y] = at;
    assert.ok(x >= 22 && y >= 22 && x + bar.width <= stage.width && y + bar.height <= stage.height, `${box}: inside`);
    const apart = x + bar.width <= box[0] || x >= box[2] || y + bar.height <= box[1] || y >= box[3];
    assert.ok(apart, `${box}: beside it`);
  }
});

test('what fills the bench leaves no side', () => {
  assert.equal(besideOf([30, 30, 640, 590], bar, stage), null);
});
