// Ticket and rail fold away, by a button or a key, and stay so from one visit to the next.
import { isTyping, nameOf } from './keys.js';

const SHELF = 'folded';
const PARTS = { 'fold-ticket': 'ticket', 'fold-rail': 'rail' };

/**
 * @param {HTMLElement} job
 * @returns {() => void} takes the listeners off
 */
export function mount(job) {
  const off = new AbortController();
  const on = (target, name, listener) => target.addEventListener(name, listener, { signal: off.signal });
  const folded = new Set(JSON.parse(localStorage.getItem(SHELF) ?? '[]'));

  const show = () => {
    for (const part of Object.values(PARTS)) job.classList.toggle(`no-${part}`, folded.has(part));
    localStorage.setItem(SHELF, JSON.stringify([...folded]));
  };
  const toggle = (part, focus) => {
    if (!folded.delete(part)) folded.add(part);
    show();
    // The focus goes to the button that takes it back.
    const button = job.querySelector(folded.has(part) ? `.unfold[data-fold="${part}"]` : `.fold-away[data-fold="${part}"]`);
    if (focus) button?.focus();
  };
  on(job, 'click', ({ target }) => {
    const button = target.closest('[data-fold]');
    if (button) toggle(button.dataset.fold, true);
  });
  on(document, 'keydown', (event) => {
    const part = isTyping(event) ? null : PARTS[nameOf(event, 'page')];
    if (!part) return;
    const inside = document.activeElement?.closest(`#${part}`);
    toggle(part, Boolean(inside));
  });
  show();
  return () => off.abort();
}
