// The Clean line: its steps and its tools.
import { choose, find, take } from '../ask.js';
import * as tools from '../bench/tools.js';
import { squaring } from './squaring.js';

const HINTS = {
  crop: 'Drag a box around what stays.',
  square: 'Press a number, or point at four corners; they are drawn to the edges beside them.',
  corners: 'Drag the corners to where they belong.',
  edge: 'Drag along an edge that is straight in truth.',
  straighten: 'Drag along an edge that should lie level or upright.',
  erase: 'Draw over what should go. Space and drag moves the bench.',
  paint: 'Draw over what is missing.',
  restore: 'Draw over what should come back.',
  clear: 'Point at a colour; what would go is shown first.',
  fill: 'Point at what should have the colour.',
  subject: 'Draw over what belongs to the subject; a short stroke is enough.',
  ground: 'Draw over what is ground; a short stroke is enough.',
  'box-area': 'Drag one box or several; only what they hold is traced.',
  'free-area': 'Draw around what is traced, once or several times.',
};

/** Strokes that the program has not confirmed yet; they outlive the list of steps. */
const pending = new Set();
/** Those it did not take, each with what sends it again. */
const refused = new Map();

/**
 * @param {HTMLElement} element
 * @returns {() => void} takes the tools off the bench again
 */
export function mount(element) {
  const bench = document.getElementById('bench');
  const find_ = (selector) => element.querySelector(selector);
  // Answers put another element in its place.
  const problem = () => document.getElementById('problem-clean');
  const options = find_('#tool-options');
  const { job, unit } = element.dataset;
  const off = new AbortController();
  const on = (target, name, listener) => target.addEventListener(name, listener, { signal: off.signal });
  let inHand = null;
  const shelf = `strokes-not-taken-${job}`;

  const send = (edit) => {
    problem().replaceChildren();
    return choose(job, { changed: 'clean', clean: JSON.stringify(edit) }, 'clean');
  };
  const add = (action) => send({ op: 'add', action });

  // Steps.
  const indexOf = (target) => Number(target.closest('[data-index]').dataset.index);
  const value = (field) => (field.type === 'checkbox' ? field.checked : /number|range/.test(field.type) ? field.valueAsNumber : field.value);
  on(element, 'change', ({ target }) => {
    if (target.matches('[data-switch]')) send({ op: 'switch', index: indexOf(target), on: target.checked });
    if (target.matches('[data-key]') && target.checkValidity()) {
      send({ op: 'change', index: indexOf(target), set: { [target.dataset.key]: value(target) } });
    } else if (target.matches('[data-key]')) problem().textContent = target.validationMessage;
  });
  on(element, 'click', async ({ target }) => {
    const button = target.closest('button');
    if (!button) return;
    const { move, take: taken, find: wanted, tool } = button.dataset;
    if (move) send({ op: 'move', index: indexOf(button), by: Number(move) });
    if (button.dataset.corners) moveCorners(Number(button.dataset.corners));
    if (button.dataset.edge) {
      edged = Number(button.dataset.edge);
      hold(inHand === 'edge' ? null : 'edge');
    }
    if (button.hasAttribute('data-corners-take')) squares.take();
    if (button.hasAttribute('data-corners-leave')) leaveCorners();
    if (button.hasAttribute('data-again')) sendRefused();
    if (button.hasAttribute('data-let-go')) letGo();
    if (button.hasAttribute('data-remove')) send({ op: 'remove', index: indexOf(button) });
    if (taken) add(JSON.parse(taken));
    if (wanted) {
      const action = await find(job, { what: wanted }, problem());
      if (action) add(action);
    }
    if (tool) hold(tool === inHand ? null : tool);
  });

  // Tools.
  // In the page's unit, or in px of the artwork where that is typed.
  const size = () => {
    const typed = find_('#brush-size').value.trim().toLowerCase();
    const units = { px: Number(element.dataset.px), mm: 1, in: 25.4 };
    return Math.max(0.01, Number.parseFloat(typed.replace(',', '.')) || 1) * units[/(px|mm|in)$/.exec(typed)?.[0] ?? unit];
  };
  const colour = () => find_('#tool-colour').value;
  const region = () => ({ tolerance: Number(find_('#region-tolerance').value), everywhere: find_('#region-everywhere').checked });

  function brush(name) {
    const shown = { subject: 'rgb(23 120 107 / .6)', ground: 'rgb(181 84 44 / .6)', erase: 'rgb(255 255 255 / .85)', restore: 'rgb(23 120 107 / .45)' };
    const look = () => ({ size: size(), tip: find_('#brush-tip').value, colour: shown[name] ?? colour() });
    return tools.brush((dabs, stroke) => {
      if (name === 'subject' || name === 'ground') {
        sendStroke({ kind: 'subject', strokes: [{ ground: name === 'ground', dabs }] }, stroke);
        return;
      }
      const extra = name === 'paint' ? { colour: colour() } : {};
      sendStroke({ kind: 'brush', tool: name, tip: stroke.tip, size: stroke.size, dabs, ...extra }, stroke);
    }, look, pending);
  }

  // A stroke stays on the bench until the step is drawn, and where it was not taken until it is sent again.
  async function sendStroke(action, stroke) {
    const loaded = new Promise((resolve) => { bench.addEventListener('drawn', resolve, { once: true }); });
    if (await add(action)) {
      await Promise.race([loaded, new Promise((resolve) => { setTimeout(resolve, 4000); })]);
      pending.delete(stroke);
    } else {
      refused.set(stroke, action);
    }
    tellRefused();
    bench.dispatchEvent(new Event('again'));
  }
  function tellRefused() {
    // The line may have been drawn anew meanwhile.
    const told = document.getElementById('not-taken');
    if (told) told.hidden = refused.size === 0;
    // A page that is out of date has to be loaded anew; the stroke comes with it.
    try {
      if (refused.size) sessionStorage.setItem(shelf, JSON.stringify([...refused]));
      else sessionStorage.removeItem(shelf);
    } catch {
      // Too long for the shelf: it stays as long as the page does.
    }
  }
  const sendRefused = () => {
    const again = [...refused];
    refused.clear();
    tellRefused();
    for (const [stroke, action] of again) sendStroke(action, stroke);
  };
  const letGo = () => {
    for (const stroke of refused.keys()) pending.delete(stroke);
    refused.clear();
    tellRefused();
    problem().replaceChildren();
    bench.dispatchEvent(new Event('again'));
  };

  function pointing(name) {
    let shown = null;
    let waiting = 0;
    let asked = '';
    const hover = (at) => {
      clearTimeout(waiting);
      waiting = setTimeout(() => {
        const { tolerance, everywhere } = region();
        asked = `/jobs/${job}/region.png?x=${at[0]}&y=${at[1]}&tolerance=${tolerance}&everywhere=${everywhere}`;
        const image = new Image();
        const own = asked;
        image.onload = () => {
          if (own !== asked) return;
          shown = image;
          bench.dataset.hovered = own;
          bench.dispatchEvent(new Event('again'));
        };
        image.src = asked;
      }, 60);
    };
    const leave = () => { clearTimeout(waiting); asked = ''; shown = null; };
    const done = (at) => {
      leave();
      const extra = name === 'fill' ? { colour: colour() } : {};
      add({ kind: name, at, ...region(), ...extra });
    };
    return tools.point(done, { hover, leave, paint: (c, _px, { width, height }) => { if (shown) c.drawImage(shown, 0, 0, width, height); } });
  }

  const level = ([ax, ay], [bx, by]) => {
    const angle = (Math.atan2(by - ay, bx - ax) * 180) / Math.PI;
    // To the nearest of level and upright.
    const degrees = Math.round(angle / 90) * 90 - angle;
    add({ kind: 'turn', degrees: Math.round(degrees * 100) / 100, found: false });
  };
  // Areas drawn one after the other belong to one step.
  const area = (points) => add({ kind: 'areas', areas: [points] });

  // What is squared up.
  const squares = squaring(job, {
    offers: find_('#square-offers'),
    problem,
    again: () => bench.dispatchEvent(new Event('again')),
    taken: (offer, index) => {
      hold(null);
      if (index === null) send({ op: 'add', action: offer.action, then: offer.then });
      else send({ op: 'replace', index, action: offer.action });
    },
  });
  let edged = 0;
  // Its corners are moved on the photograph as it came: the step is off meanwhile.
  async function moveCorners(index) {
    sessionStorage.setItem('clean-corners', String(index));
    sessionStorage.setItem('clean-tool', 'corners');
    const done = find_(`[data-index="${index}"] [data-switch]`).checked;
    if (!done || !await send({ op: 'switch', index, on: false })) hold('corners');
  }
  function leaveCorners() {
    const index = Number(sessionStorage.getItem('clean-corners'));
    hold(null);
    send({ op: 'switch', index, on: true });
  }
  async function lensBy(a, b) {
    const percent = await find(job, { ends: [...a, ...b].join(',') }, problem(), 'lens');
    hold(null);
    if (percent !== null) send({ op: 'change', index: edged, set: { lens: percent } });
  }

  const made = {
    square: () => squares.tool(null),
    corners: () => squares.tool(Number(sessionStorage.getItem('clean-corners'))),
    edge: () => tools.line(lensBy),
    crop: () => tools.box((c) => { hold(null); add({ kind: 'crop', corners: c }); }, { shade: true }),
    straighten: () => tools.line((a, b) => { hold(null); level(a, b); }),
    erase: () => brush('erase'),
    paint: () => brush('paint'),
    restore: () => brush('restore'),
    subject: () => brush('subject'),
    ground: () => brush('ground'),
    clear: () => pointing('clear'),
    fill: () => pointing('fill'),
    'box-area': () => tools.box(area),
    'free-area': () => tools.outline(area),
  };
  const uses = { corners: 'corners', erase: 'brush', paint: 'brush colour', restore: 'brush', subject: 'brush', ground: 'brush', clear: 'region', fill: 'region colour' };

  function hold(name) {
    inHand = name;
    for (const b of element.querySelectorAll('[data-tool]')) b.setAttribute('aria-pressed', String(b.dataset.tool === name));
    options.hidden = !name;
    const used = (uses[name] ?? '').split(' ');
    for (const label of options.querySelectorAll('[data-for]')) label.hidden = !used.includes(label.dataset.for);
    if (name !== 'square') squares.end();
    find_('#tool-hint').textContent = HINTS[name] ?? '';
    sessionStorage.setItem('clean-tool', name ?? '');
    take(name ? made[name]() : null);
    // Areas are drawn over all there is.
    bench.dispatchEvent(new CustomEvent('look', { detail: name?.endsWith('-area') ? 'artwork' : 'cleaned' }));
  }
  on(bench, 'down-tools', () => hold(null));
  // After a step the list is drawn anew; the tool stays in hand.
  const kept = sessionStorage.getItem('clean-tool');
  if (!refused.size) {
    for (const [stroke, action] of JSON.parse(sessionStorage.getItem(shelf) ?? '[]')) {
      pending.add(stroke);
      refused.set(stroke, action);
    }
  }
  tellRefused();
  queueMicrotask(() => {
    bench.dispatchEvent(new CustomEvent('look', { detail: 'cleaned' }));
    if (kept && made[kept]) hold(kept);
  });
  return () => {
    off.abort();
    if (document.getElementById('clean')) return;
    sessionStorage.removeItem('clean-tool');
    take(null);
    bench.dispatchEvent(new CustomEvent('look', { detail: null }));
  };
}
