// A layer dragged in the rail comes to lie where it is dropped.
import { ask } from './ask.js';

/**
 * @param {HTMLElement} list layers, the topmost first
 * @returns {() => void} takes the listeners off
 */
export function mount(list) {
  let dragged = null;
  const of = (event) => event.target.closest?.('[data-ink]');
  const over = (item) => {
    for (const other of list.querySelectorAll('.over')) other.classList.remove('over');
    if (item && item !== dragged) item.classList.add('over');
  };
  const on = {
    dragstart(event) {
      dragged = of(event);
      event.dataTransfer.effectAllowed = 'move';
      event.dataTransfer.setData('text/plain', dragged?.dataset.ink ?? '');
    },
    dragover(event) {
      const item = of(event);
      if (!dragged || !item) return;
      event.preventDefault();
      over(item);
    },
    dragend() { dragged = null; over(null); },
    drop(event) {
      const onto = of(event);
      if (!dragged || !onto || onto === dragged) return;
      event.preventDefault();
      over(null);
      const inks = [...list.querySelectorAll('[data-ink]')].map((item) => item.dataset.ink);
      const [from, to] = [inks.indexOf(dragged.dataset.ink), inks.indexOf(onto.dataset.ink)];
      inks.splice(to, 0, ...inks.splice(from, 1));
      dragged = null;
      ask(`/jobs/${list.dataset.job}/layers`, { do: 'order', value: inks.reverse().join(','), line: document.getElementById('open-line').value });
    },
  };
  for (const [name, listener] of Object.entries(on)) list.addEventListener(name, listener);
  return () => { for (const [name, listener] of Object.entries(on)) list.removeEventListener(name, listener); };
}
