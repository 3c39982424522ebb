// What lasts says so, and a look at a change can be stopped. Run by `node --test`.
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { listen } from '../static/js/busy.js';

/** A page with the sign, a second that can be let pass, and requests that are begun and ended. */
function page() {
  const [span, button] = [{ textContent: '' }, { hidden: false }];
  const sign = { hidden: true, querySelector: (what) => (what === 'span' ? span : button) };
  const timers = [];
  const stopped = [];
  globalThis.window = {
    setTimeout: (run) => timers.push(run),
    htmx: { trigger: (form, name) => stopped.push([form, name]) },
  };
  globalThis.clearTimeout = () => { timers.length = 0; };
  const made = Object.assign(new EventTarget(), {
    getElementById: () => sign,
    querySelector: () => ({ textContent: 'Trace' }),
  });
  const tell = (name, xhr, path) => made.dispatchEvent(Object.assign(new Event(name), { detail: { xhr, elt: `form of ${xhr}`, requestConfig: { path } } }));
  listen(made);
  return {
    sign, span, button, stopped,
    begin: (xhr, path) => tell('htmx:beforeSend', xhr, path),
    end: (xhr) => tell('htmx:afterRequest', xhr, ''),
    second: () => { for (const run of timers.splice(0)) run(); },
    press: () => {
      const event = new Event('click');
      Object.defineProperty(event, 'target', { value: { closest: () => button } });
      made.dispatchEvent(event);
    },
  };
}

test('what is answered within a second is not talked about', () => {
  const p = page();
  p.begin(1, '/jobs/1/choose');
  p.end(1);
  p.second();
  assert.equal(p.sign.hidden, true);
});

test('a change that lasts is named, without a button that could lose it', () => {
  const p = page();
  p.begin(1, '/jobs/1/choose');
  p.second();
  assert.deepEqual([p.sign.hidden, p.span.textContent, p.button.hidden], [false, 'Trace: working …', true]);
  p.end(1);
  assert.equal(p.sign.hidden, true);
});

test('a look at a change can be stopped', () => {
  const p = page();
  p.begin(1, '/jobs/1/try');
  p.second();
  assert.deepEqual([p.sign.hidden, p.button.hidden], [false, false]);
  p.press();
  assert.deepEqual(p.stopped, [['form of 1', 'htmx:abort']]);
});

test('what follows an answer keeps nobody waiting', () => {
  const p = page();
  for (const [n, path] of ['/jobs/1/late', '/jobs/1/told?format=svg', '/jobs/1/state'].entries()) p.begin(n, path);
  p.second();
  assert.equal(p.sign.hidden, true);
});
