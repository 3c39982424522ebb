// A run dragged in a machine's queue comes where it is dropped.
import { dragOnto } from '../dragging.js';

/**
 * @param {HTMLElement} list the runs that wait, the next one first
 * @returns {() => void} takes the listeners off
 */
export function mount(list) {
  return dragOnto(list, '[data-run]', (dragged, onto) => {
    /** @type {HTMLElement[]} */
    const rows = [...list.querySelectorAll('[data-run]')];
    // Dragged down it comes behind the row it is dropped on, dragged up before it.
    const down = rows.indexOf(dragged) < rows.indexOf(onto);
    const before = down ? rows[rows.indexOf(onto) + 1] : onto;
    const { run } = dragged.dataset;
    const address = before ? `/runs/${run}/before/${before.dataset.run}` : `/runs/${run}/last`;
    window.htmx.ajax('POST', address, { target: '#machine-bench', swap: 'outerHTML' });
  });
}
