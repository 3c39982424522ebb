// Tools of the Inks line: a colour pointed at, enclosed ground kept.
import { choose, find, take } from '../ask.js';
import { point } from '../bench/tools.js';

/**
 * @param {HTMLElement} element
 * @returns {() => void} takes the tools off the bench again
 */
export function mount(element) {
  const { job } = element.dataset;
  const problem = element.querySelector('#problem-inktools');
  const bench = document.getElementById('bench');
  const send = (name, value) => choose(job, { changed: name, [name]: value }, 'inks');

  const made = {
    colour: () => point(async ([x, y]) => {
      const found = await find(job, { what: 'colour', x, y }, problem);
      if (found) send('added', found.colour);
    }),
    enclosed: () => point(([x, y]) => send('enclosed', `${x},${y}`)),
  };
  let inHand = null;
  const hold = (name) => {
    inHand = name;
    for (const b of element.querySelectorAll('[data-tool]')) b.setAttribute('aria-pressed', String(b.dataset.tool === name));
    take(name ? made[name]() : null);
  };
  const clicked = ({ target }) => {
    const button = target.closest('button');
    if (!button) return;
    if (button.dataset.choose) send(button.dataset.choose, button.dataset.value);
    if (button.dataset.tool) hold(button.dataset.tool === inHand ? null : button.dataset.tool);
  };
  const down = () => hold(null);
  element.addEventListener('click', clicked);
  bench.addEventListener('down-tools', down);
  return () => {
    element.removeEventListener('click', clicked);
    bench.removeEventListener('down-tools', down);
    if (inHand) take(null);
  };
}
