// What lasts says so, tells how far it is, and can be stopped. Run by `node --test`.
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { listen } from '../static/js/busy.js';
import { nameIn } from '../static/js/send/download.js';

/** A page with the sign, a second that can be let pass, and requests that are begun and ended. */
function page(far = null) {
  const parts = {
    '#busy': { hidden: true }, '#busy span': { textContent: '' }, '#busy progress': { hidden: true },
    '.line[aria-current] .t': { textContent: 'Trace' },
  };
  const timers = [];
  const stopped = [];
  let reloaded = 0;
  globalThis.window = { setTimeout: (run) => timers.push(run), location: { reload() { reloaded += 1; } } };
  globalThis.clearTimeout = () => { timers.length = 0; };
  globalThis.fetch = async () => (far ? { status: 200, json: async () => far } : { status: 204 });
  const made = Object.assign(new EventTarget(), {
    getElementById: () => ({ dataset: { job: '1' } }),
    querySelector: (css) => parts[css],
  });
  const requests = new Map();
  const request = (n) => {
    if (!requests.has(n)) requests.set(n, { abort: () => stopped.push(n) });
    return requests.get(n);
  };
  const tell = (name, n, path) => made.dispatchEvent(Object.assign(new Event(name), { detail: { xhr: request(n), requestConfig: { path } } }));
  listen(made);
  return {
    sign: parts['#busy'], span: parts['#busy span'], bar: parts['#busy progress'], stopped,
    reloaded: () => reloaded,
    begin: (n, path) => tell('htmx:beforeSend', n, path),
    end: (n) => tell('htmx:afterRequest', n, ''),
    second: async () => {
      for (const run of timers.splice(0)) run();
      await new Promise((later) => { setTimeout(later); });
    },
    file: (name) => made.dispatchEvent(Object.assign(new Event(name), { detail: { work: request('file'), words: 'writing the files' } })),
    press: () => {
      const event = new Event('click');
      Object.defineProperty(event, 'target', { value: { closest: () => true } });
      made.dispatchEvent(event);
    },
  };
}

test('what is answered within a second is not talked about', async () => {
  const p = page();
  p.begin(1, '/jobs/1/choose');
  p.end(1);
  await p.second();
  assert.equal(p.sign.hidden, true);
});

test('a change that lasts is named, with how far it is', async () => {
  const p = page({ words: 'fitting curves', share: 0.4 });
  p.begin(1, '/jobs/1/choose');
  await p.second();
  assert.deepEqual([p.sign.hidden, p.span.textContent, p.bar.hidden, p.bar.value], [false, 'Trace: fitting curves …', false, 0.4]);
  p.end(1);
  assert.equal(p.sign.hidden, true);
});

test('where nothing tells how far it is, it is named alone', async () => {
  const p = page();
  p.begin(1, '/jobs/1/choose');
  await p.second();
  assert.deepEqual([p.span.textContent, p.bar.hidden], ['Trace: working …', true]);
});

test('a change that is stopped leaves the page as the job is', async () => {
  const p = page();
  p.begin(1, '/jobs/1/choose');
  await p.second();
  p.press();
  assert.deepEqual([p.stopped, p.reloaded()], [[1], 1]);
});

test('a look at a change is stopped, and the page stays', async () => {
  const p = page();
  p.begin(1, '/jobs/1/try');
  await p.second();
  assert.equal(p.span.textContent, 'Trace: a look at the change …');
  p.press();
  assert.deepEqual([p.stopped, p.reloaded()], [[1], 0]);
});

test('what follows an answer keeps nobody waiting', async () => {
  const p = page();
  for (const [n, path] of ['/jobs/1/late', '/jobs/1/told?format=svg', '/jobs/1/state'].entries()) p.begin(n, path);
  await p.second();
  assert.equal(p.sign.hidden, true);
});

test('files that take long are told, and stopping them leaves the page as it is', async () => {
  const p = page();
  p.file('began');
  await p.second();
  assert.deepEqual([p.sign.hidden, p.span.textContent], [false, 'Trace: writing the files …']);
  p.press();
  assert.deepEqual([p.stopped, p.reloaded()], [['file'], 0]);
  p.file('ended');
  assert.equal(p.sign.hidden, true);
});

test('a file has the name that the program gives it', () => {
  const bytes = (text) => String.fromCharCode(...new TextEncoder().encode(text));
  assert.equal(nameIn(`attachment; filename="${bytes('Théière 2.dxf')}"`), 'Théière 2.dxf');
  assert.equal(nameIn(''), 'cut-file');
});
