// The small bar at what is picked, with what can be done with it: above it where there is room, else below or
// beside it, else on the bar of views; never over what is picked.
import { nameOf } from '../keys.js';
import { viewOf } from './sight.js';
import { RULER } from './rulers.js';

/** Room between the pick and the bar, px; above it stands the handle that turns. */
const GAP = 10;
const TURN_HANDLE = 30;

/**
 * Where a bar stands beside a box, px of the stage.
 * @param {[number, number, number, number]} box what is picked
 * @param {{width: number, height: number}} bar
 * @param {{width: number, height: number}} stage
 * @returns {?[number, number]} its left upper corner; `null` where there is no room on any side
 */
export function besideOf([x0, y0, x1, y1], bar, stage) {
  const within = (v, least, most) => Math.max(least, Math.min(v, most));
  const left = within((x0 + x1 - bar.width) / 2, RULER + 4, stage.width - bar.width - 4);
  const top = within((y0 + y1 - bar.height) / 2, RULER + 4, stage.height - bar.height - 4);
  const above = y0 - TURN_HANDLE - GAP - bar.height;
  if (above >= RULER + 4 && above + bar.height <= stage.height) return [left, above];
  if (y1 + GAP >= RULER && y1 + GAP + bar.height <= stage.height - 4) return [left, y1 + GAP];
  if (x1 + GAP >= RULER && x1 + GAP + bar.width <= stage.width - 4) return [x1 + GAP, top];
  if (x0 - GAP - bar.width >= RULER + 4 && x0 - GAP <= stage.width) return [x0 - GAP - bar.width, top];
  return null;
}

/** @typedef {{value: string, label: string, colour: ?string}} Choice */

/** @param {Choice} choice */
function button({ value, label, colour }) {
  const made = document.createElement('button');
  made.type = 'button';
  made.dataset.give = value;
  if (colour) {
    const dot = document.createElementNS('http://www.w3.org/2000/svg', 'svg');
    const square = document.createElementNS('http://www.w3.org/2000/svg', 'rect');
    for (const [name, v] of Object.entries({ class: 'dot', viewBox: '0 0 12 12', 'aria-hidden': 'true' })) dot.setAttribute(name, v);
    for (const [name, v] of Object.entries({ width: '12', height: '12', fill: colour })) square.setAttribute(name, v);
    dot.append(square);
    made.append(dot);
  }
  made.append(label);
  return made;
}

/**
 * @param {HTMLElement} bench
 * @param {(button: HTMLElement) => void} press does what a button of it says
 * @param {() => Choice[]} [choices] what its list offers
 * @returns {{show: (box: ?number[], kind: string) => void, off: () => void}} `show` places it beside a box, mm,
 *   with the buttons for what is picked, or hides it
 */
export function pickBar(bench, press, choices = () => []) {
  /** @type {HTMLElement} */
  const bar = bench.querySelector('.pick-bar');
  const canvas = bench.querySelector('canvas');
  const signal = new AbortController();
  const on = (target, name, listener) => target.addEventListener(name, listener, { signal: signal.signal });
  let box = null;
  let held = false;

  const buttons = () => /** @type {HTMLElement[]} */ ([...bar.querySelectorAll('button, summary')]).filter((b) => b.checkVisibility());
  const place = () => {
    const view = viewOf(canvas);
    bar.hidden = !box || held || !view;
    if (bar.hidden) return;
    const stage = { width: canvas.clientWidth, height: canvas.clientHeight };
    const [x0, y0, x1, y1] = box;
    const there = /** @type {[number, number, number, number]} */ ([view.x + x0 * view.scale, view.y + y0 * view.scale, view.x + x1 * view.scale, view.y + y1 * view.scale]);
    const at = besideOf(there, { width: bar.offsetWidth, height: bar.offsetHeight }, stage);
    bar.classList.toggle('docked', !at);
    const [left, top] = at ?? [RULER + 4, stage.height + 4];
    bar.style.left = `${Math.round(left)}px`;
    bar.style.top = `${Math.round(top)}px`;
    bar.querySelector('.pick-inks')?.classList.toggle('up', top > stage.height / 2);
  };
  const close = () => bar.querySelector('details')?.removeAttribute('open');
  on(bar, 'click', ({ target }) => {
    const pressed = target.closest('button');
    if (!pressed) return;
    close();
    press(pressed);
  });
  on(bar.querySelector('details'), 'toggle', () => bar.querySelector('.pick-inks').replaceChildren(...choices().map(button)));
  on(bar, 'keydown', (event) => {
    const all = buttons();
    const at = all.findIndex((b) => b === document.activeElement);
    const to = { ArrowRight: at + 1, ArrowDown: at + 1, ArrowLeft: at - 1, ArrowUp: at - 1 }[event.key];
    event.stopPropagation();
    if (event.key === 'Escape') { close(); canvas.focus(); }
    if (to === undefined) return;
    event.preventDefault();
    all.at(to % all.length)?.focus();
  });
  // Enter on the bench goes to the bar, Escape back.
  on(canvas, 'keydown', (event) => {
    if (nameOf(event, 'shapes') !== 'bar' || bar.hidden) return;
    event.preventDefault();
    buttons()[0]?.focus();
  });
  on(canvas, 'pointerdown', () => { held = true; close(); place(); });
  for (const name of ['pointerup', 'pointercancel']) on(canvas, name, () => { held = false; queueMicrotask(place); });
  on(bench, 'moved', place);
  return {
    show(next, kind) {
      box = next;
      /** @type {NodeListOf<HTMLElement>} */
      const all = bar.querySelectorAll('[data-when]');
      for (const own of all) own.hidden = !own.dataset.when.split(' ').includes(kind);
      place();
    },
    off() { signal.abort(); bar.hidden = true; },
  };
}
