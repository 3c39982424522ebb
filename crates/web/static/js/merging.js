// An ink dropped on another in the rail is merged into it.
import { choose } from './ask.js';

/**
 * @param {HTMLElement} list
 * @returns {() => void} takes the listeners off
 */
export function mount(list) {
  const { job } = list.dataset;
  let dragged = null;
  const of = (event) => event.target.closest?.('[data-colour]');
  const over = (item) => {
    for (const other of list.querySelectorAll('.over')) other.classList.remove('over');
    if (item && item.dataset.colour !== dragged) item.classList.add('over');
  };
  const on = {
    dragstart(event) {
      dragged = of(event)?.dataset.colour ?? null;
      event.dataTransfer.effectAllowed = 'move';
      event.dataTransfer.setData('text/plain', dragged ?? '');
    },
    dragover(event) {
      const item = of(event);
      if (!dragged || !item) return;
      event.preventDefault();
      over(item);
    },
    dragend() { dragged = null; over(null); },
    drop(event) {
      const into = of(event)?.dataset.colour;
      if (!dragged || !into) return;
      event.preventDefault();
      over(null);
      if (into !== dragged) choose(job, { changed: 'merge', merge: dragged, into }, document.getElementById('open-line')?.value ?? 'inks');
      dragged = null;
    },
  };
  for (const [name, listener] of Object.entries(on)) list.addEventListener(name, listener);
  return () => { for (const [name, listener] of Object.entries(on)) list.removeEventListener(name, listener); };
}
