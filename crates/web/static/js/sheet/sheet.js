// The Sheet line: parts moved by hand, nesting that goes on in the background, the run-through.
import { ask, take } from '../ask.js';
import { nameOf, stepOf, wayOf } from '../keys.js';
import { pickBar } from '../bench/pickbar.js';
import { mmPerPixel } from '../bench/sight.js';
import { Run, stepAt } from './player.js';
import { boxOf, fetched, ghost, markAt, partAt } from '../bench/sheetview.js';

// Which sheet is shown and where the run-through is outlive a change of the ticket.
let shown = '';
let running = false;
let inHand = null;
// Whether pieces that are pressed are coloured in.
let colouring = false;

/** A part in hand that is not dragged. */
const inPlace = (item) => { const at = [0, 0]; return { item, from: at, to: at }; };
const clock = (s) => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, '0')}`;

/**
 * @param {HTMLElement} element
 * @returns {() => void} takes the sheet off the bench again
 */
export function mount(element) {
  const bench = document.getElementById('bench');
  const find = (selector) => element.querySelector(selector);
  const { job, sheets: key } = element.dataset;
  const off = new AbortController();
  const on = (target, name, listener) => target.addEventListener(name, listener, { signal: off.signal });
  const send = (name, detail) => bench.dispatchEvent(new CustomEvent(name, { detail }));
  const change = (values) => ask(`/jobs/${job}/sheet`, values);
  const buttons = [...element.querySelectorAll('[data-sheet]')];
  const names = buttons.map((b) => b.dataset.name);
  let n = Math.max(0, names.indexOf(shown));
  let sheet = null;
  let held = null;
  let run = null;
  let now = 0;
  let playing = 0;

  // A mark of a printed page that is dragged.
  let mark = null;

  const pieces = find('#fill-pieces');

  // The part in hand, where it is dragged to.
  const tool = {
    cursor: 'move',
    down(at) {
      const [left, top] = sheet?.page?.paper ?? [0, 0];
      if (colouring && !run && sheet?.page && !pieces?.closest('[hidden]')) {
        ask(`/jobs/${job}/look`, { line: 'sheet', do: 'fill-at', at: [at[0] - left, at[1] - top].map((v) => v.toFixed(2)).join(',') });
        return;
      }
      const found = run || !sheet?.page ? null : markAt(sheet, at, mmPerPixel(canvas));
      mark = found ? { place: found, to: at } : null;
      if (mark) return;
      const item = run ? null : partAt(sheet ?? { items: [] }, at);
      held = item ? { item, from: at, to: at } : null;
      inHand = item?.n ?? null;
      told();
    },
    move(at) { if (mark) mark.to = at; else if (held) held.to = at; },
    up(at) {
      if (mark) {
        const [x, y, corner] = mark.place;
        const [left, top] = sheet.page.paper;
        if (Math.hypot(at[0] - x, at[1] - y) > 0.3) ask(`/jobs/${job}/print`, { line: 'sheet', do: 'mark-drag', corner: String(corner), at: [at[0] - left, at[1] - top].map((v) => v.toFixed(2)).join(',') });
        mark = null;
        return;
      }
      if (!held) return;
      held.to = at;
      const [x, y] = spot();
      if (Math.hypot(x - held.item.spot.x, y - held.item.spot.y) > 0.05) put(x, y, held.item.spot.turn);
      else held.from = held.to = at;
    },
    cancel() { held = null; mark = null; },
    settled() {},
    // Whose a part is, is told where it is pointed at.
    hover(at) { point(run ? null : partAt(sheet ?? { items: [] }, at)?.n ?? null); },
    leave() { point(null); },
    paint(c, px) {
      if (run) { run.paint(c, now, px); return; }
      if (mark) {
        c.strokeStyle = '#17786b';
        c.lineWidth = 2 * px;
        c.beginPath();
        c.arc(...mark.to, sheet.page.near, 0, 2 * Math.PI);
        c.stroke();
        return;
      }
      if (!held) return;
      const [x0, y0, x1, y1] = boxOf(sheet, held.item);
      c.strokeStyle = '#17786b';
      c.lineWidth = 2 * px;
      c.strokeRect(x0, y0, x1 - x0, y1 - y0);
      if (held.from === held.to) return;
      const [x, y] = spot();
      const map = [...held.item.map];
      map[4] += x - held.item.spot.x;
      map[5] += y - held.item.spot.y;
      ghost(c, sheet, held.item, map, px);
    },
  };
  let pointed = null;
  const point = (at) => { if (at !== pointed) { pointed = at; send('pointed', at); } };
  const spot = () => [held.item.spot.x + held.to[0] - held.from[0], held.item.spot.y + held.to[1] - held.from[1]];
  const put = (x, y, turn) => change({ do: 'move', sheet: sheet.name, which: String(held.item.n), value: [x, y, turn].map((v) => v.toFixed(3)).join(',') });
  const told = () => {
    find('#held-part').textContent = held
      ? `${held.item.job}${held.item.owner ? `, ${held.item.owner}` : ''} in hand; , and . turn it by 15°, arrows move it by 1 mm.`
      : 'Drag parts on the bench, or Tab takes one in hand; , and . turn it by 15°.';
    element.dataset.held = held ? String(held.item.n) : '';
    bar.show(held ? boxOf(sheet, held.item) : null, 'part');
  };
  const turnBy = (degrees) => { const { x, y, turn } = held.item.spot; put(x, y, turn + degrees); };
  const bar = pickBar(bench, ({ dataset }) => { if (held && dataset.turn) turnBy(Number(dataset.turn)); });
  const canvas = bench.querySelector('canvas');
  let leaving = false;
  for (const name of ['pointerdown', 'blur']) on(canvas, name, () => { leaving = false; });
  on(canvas, 'keydown', (event) => {
    if (event.key === 'Escape') leaving = true;
    const name = nameOf(event, 'parts');
    const turn = { 'turn-left': -15, 'turn-right': 15 }[name];
    if (!name || run || !sheet) return;
    if (name === 'next' || name === 'previous') {
      const all = sheet.items.filter((i) => i.moves);
      const next = all.findIndex((i) => i.n === inHand) + (name === 'next' ? 1 : -1);
      // After Escape, and past the last one, the key leaves the bench.
      if (leaving || next < 0 || next >= all.length) return;
      held = inPlace(all[next]);
      inHand = all[next].n;
      told();
    } else if (!held) return;
    else if (turn) turnBy(turn);
    else {
      const [x, y] = wayOf(event).map((v) => v * stepOf(event));
      put(held.item.spot.x + x, held.item.spot.y + y, held.item.spot.turn);
    }
    event.preventDefault();
    send('again');
  });

  async function load() {
    if (!names.length) { send('sheet', null); return; }
    const before = inHand;
    sheet = await fetched(job, key, n, off.signal);
    const item = sheet.items.find((i) => i.n === before && i.moves);
    held = item ? inPlace(item) : null;
    send('sheet', sheet);
    told();
    element.dataset.shown = `${key} ${n}`;
    if (running) await begin();
  }
  const failed = (error) => { if (!off.signal.aborted) { console.error(error); find('#problem-sheet').textContent = 'The sheet could not be loaded; open the line again.'; } };
  const show = (next) => {
    if (names[next] !== shown) inHand = null;
    n = next;
    shown = names[n] ?? '';
    buttons.forEach((b, k) => b.setAttribute('aria-pressed', String(k === n)));
    for (const p of element.querySelectorAll('[data-figures], [data-times]')) p.hidden = Number(p.dataset.figures ?? p.dataset.times) !== n;
    stop();
    load().catch(failed);
  };

  // Nesting: begun, looked at until it is done, kept as a step.
  async function nest() {
    find('#problem-sheet').textContent = '';
    const begun = await fetch(`/jobs/${job}/nest`, { method: 'POST', signal: off.signal });
    if (!begun.ok) {
      find('#problem-sheet').textContent = begun.status === 503 ? 'Other sheets are being nested; try again in a moment.' : 'Nesting could not begin; open the line again.';
      return;
    }
    await watch();
  }
  async function watch() {
    find('#nesting').hidden = false;
    find('#nest').disabled = true;
    for (;;) {
      const answer = await fetch(`/jobs/${job}/nest.json`, { signal: off.signal });
      if (!answer.ok) break;
      const t = await answer.json();
      if (!t) break;
      find('#nest-bar').value = t.part;
      if (t.length) find('#nest-told').textContent = `${(t.length / 1000).toFixed(3)} m${t.covered ? ` · ${(t.covered * 100).toFixed(1)} % used` : ''} · ${t.better} better`;
      element.dataset.nested = t.done ? 'done' : String(t.better);
      if (t.done) { await ask(`/jobs/${job}/nested`, {}); break; }
      await new Promise((later) => { setTimeout(later, 250); });
    }
    find('#nesting').hidden = true;
    find('#nest').disabled = false;
  }
  on(find('#nest'), 'click', () => nest().catch(failed));
  on(find('#nest-stop'), 'click', () => { fetch(`/jobs/${job}/nest/stop`, { method: 'POST' }); });
  // A search that goes on from before is taken up again.
  fetch(`/jobs/${job}/nest.json`, { signal: off.signal }).then((a) => a.json()).then((t) => (t ? watch() : null)).catch(() => {});

  // The run-through.
  const scrub = find('#scrub');
  const group = find('#group-run');
  const play = find('#play');
  async function begin() {
    if (!names.length) return;
    const answer = await fetch(`/jobs/${job}/sheets/${key}/${n}/plan.json`, { signal: off.signal });
    if (!answer.ok) throw new Error(`plan: ${answer.status}`);
    run = new Run(await answer.json());
    held = inHand = null;
    now = Math.min(now, run.plan.seconds);
    tell();
  }
  function tell() {
    if (!run) return;
    const { plan } = run;
    const at = stepAt(plan, now);
    const step = plan.steps[at];
    scrub.value = String(plan.seconds ? Math.round((now / plan.seconds) * 1000) : 0);
    find('#play-time').textContent = `${clock(now)} · ${clock(plan.seconds - now)} left`;
    find('#play-told').textContent = step
      ? `Path ${at + 1} of ${plan.steps.length}: ${plan.layers[step.layer][0]}, ${step.length.toFixed(0)} mm. In all ${(plan.cut / 1000).toFixed(2)} m cut, ${(plan.travel / 1000).toFixed(2)} m travelled.`
      : 'Nothing to run.';
    element.dataset.path = step ? `${step.key.layer}/${step.key.path}` : '';
    element.dataset.at = String(at);
    send('tick');
  }
  function stop() {
    cancelAnimationFrame(playing);
    playing = 0;
    play.textContent = 'Play';
  }
  function start() {
    if (!run) return;
    if (now >= run.plan.seconds) now = 0;
    play.textContent = 'Pause';
    let before = performance.now();
    const frame = (time) => {
      now = Math.min(run.plan.seconds, now + ((time - before) / 1000) * Number(find('#play-speed').value));
      before = time;
      tell();
      if (now < run.plan.seconds) playing = requestAnimationFrame(frame); else stop();
    };
    playing = requestAnimationFrame(frame);
  }
  on(play, 'click', () => (playing ? stop() : start()));
  on(scrub, 'input', () => { if (run) { stop(); now = (Number(scrub.value) / 1000) * run.plan.seconds; tell(); } });
  const step = (by) => {
    if (!run) return;
    stop();
    const at = Math.min(run.plan.steps.length - 1, Math.max(0, stepAt(run.plan, now) + by));
    // In the middle of it, so that it is the one in hand.
    const [, cuts, ends] = run.plan.steps[at].times;
    now = (cuts + ends) / 2;
    tell();
  };
  on(find('#back-one'), 'click', () => step(-1));
  on(find('#on-one'), 'click', () => step(1));
  on(element, 'chosen', () => {
    running = !group.hidden;
    if (running) begin().catch(failed);
    else if (run) { stop(); run = null; send('tick'); }
  });
  on(find('#pulls'), 'click', ({ target }) => {
    const button = target.closest('button');
    if (!button || !sheet) return;
    if (button.id === 'order-back') change({ do: 'order-back', sheet: sheet.name });
    else if (element.dataset.path) change({ do: 'pull', sheet: sheet.name, which: element.dataset.path, value: button.dataset.pull });
  });

  on(element, 'click', ({ target }) => {
    const button = target.closest('[data-sheet]');
    if (button) show(Number(button.dataset.sheet));
  });
  const paints = (is) => {
    colouring = is && pieces !== null;
    pieces?.setAttribute('aria-pressed', String(colouring));
    tool.cursor = colouring ? 'crosshair' : 'move';
  };
  if (pieces) on(pieces, 'click', () => paints(!colouring));
  paints(colouring);
  running = !group.hidden;
  send('look', 'sheet');
  take(tool);
  show(n);
  return () => {
    off.abort();
    bar.off();
    stop();
    take(null);
    send('sheet', null);
    send('look', null);
  };
}
