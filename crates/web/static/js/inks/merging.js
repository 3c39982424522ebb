// An ink dropped on another in the rail is merged into it.
import { choose } from '../ask.js';
import { dragOnto } from '../dragging.js';

/**
 * @param {HTMLElement} list
 * @returns {() => void} takes the listeners off
 */
export function mount(list) {
  return dragOnto(list, '[data-colour]', (dragged, onto) => {
    const line = document.getElementById('open-line')?.value ?? 'inks';
    choose(list.dataset.job, { changed: 'merge', merge: dragged.dataset.colour, into: onto.dataset.colour }, line);
  });
}
