// A layer dragged in the rail comes to lie where it is dropped.
import { ask } from '../ask.js';
import { dragOnto } from '../dragging.js';

/**
 * @param {HTMLElement} list layers, the topmost first
 * @returns {() => void} takes the listeners off
 */
export function mount(list) {
  return dragOnto(list, '[data-ink]', (dragged, onto) => {
    const inks = [...list.querySelectorAll('[data-ink]')].map((item) => item.dataset.ink);
    const [from, to] = [inks.indexOf(dragged.dataset.ink), inks.indexOf(onto.dataset.ink)];
    inks.splice(to, 0, ...inks.splice(from, 1));
    ask(`/jobs/${list.dataset.job}/layers`, { do: 'order', value: inks.reverse().join(','), line: document.getElementById('open-line').value });
  });
}
