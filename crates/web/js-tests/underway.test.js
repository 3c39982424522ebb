import assert from 'node:assert/strict';
import { test } from 'node:test';
import { listen } from '../static/js/underway.js';

/** A page with an undo button that makes a request which is answered later. */
function page() {
  const made = Object.assign(new EventTarget(), { presses: 0, disabled: false });
  const tell = (name, path) => {
    const event = Object.assign(new Event(name), { detail: { requestConfig: { verb: 'post', path } } });
    made.dispatchEvent(event);
  };
  made.getElementById = () => ({ disabled: made.disabled, click: () => { made.presses += 1; made.begin('/jobs/1/undo'); } });
  made.begin = (path) => tell('htmx:beforeSend', path);
  made.end = (path) => tell('htmx:afterRequest', path);
  return made;
}
const settled = () => new Promise((resolve) => { setTimeout(resolve, 150); });

test('undo is done at once where nothing is under way', () => {
  const p = page();
  listen(p)('undo');
  assert.equal(p.presses, 1);
});

test('undo pressed while a change is under way is done after it, as often as it was pressed', async () => {
  const p = page();
  const undo = listen(p);
  // Not possible yet: the first step is only being made.
  p.disabled = true;
  p.begin('/jobs/1/choose');
  undo('undo');
  undo('undo');
  assert.equal(p.presses, 0);
  p.disabled = false;
  p.end('/jobs/1/choose');
  await settled();
  assert.equal(p.presses, 1, 'the second waits for the first');
  p.end('/jobs/1/undo');
  await settled();
  assert.equal(p.presses, 2);
});

test('what a script asks for is under way before it is sent', async () => {
  const p = page();
  const undo = listen(p);
  p.dispatchEvent(new Event('asked'));
  undo('undo');
  assert.equal(p.presses, 0);
  p.dispatchEvent(new Event('answered'));
  await settled();
  assert.equal(p.presses, 1);
});

test('a preview holds nobody up', () => {
  const p = page();
  const undo = listen(p);
  p.begin('/jobs/1/try');
  undo('undo');
  assert.equal(p.presses, 1);
});
