// Mounts the small modules on the elements that ask for them, now and after every swap.
import { mount as askew } from './clean/askew.js';
import { listen as listenWhileAway } from './away.js';
import { mount as bench } from './bench/bench.js';
import { listen as listenToBusy } from './busy.js';
import { mount as choices } from './choices.js';
import { mount as clean } from './clean/clean.js';
import { listen as listenToDownloads } from './send/download.js';
import { mount as drop } from './jobs/drop.js';
import { mount as field } from './field.js';
import { mount as folding } from './folding.js';
import { mount as format } from './send/format.js';
import { mount as groups } from './groups.js';
import { mount as inktools } from './inks/inktools.js';
import { listen as listenToFocus } from './focus.js';
import { listen as listenToKeys } from './keys.js';
import { mount as levels } from './inks/levels.js';
import { mount as layers } from './layers/layers.js';
import { mount as merging } from './inks/merging.js';
import { mount as offcut } from './materials/offcut.js';
import { mount as marks } from './machines/marks.js';
import { mount as queue } from './machines/queue.js';
import { listen as listenToPopups } from './popups.js';
import { listen as listenToProblems } from './problems.js';
import { mount as sending } from './send/sending.js';
import { mount as sheet } from './sheet/sheet.js';
import { mount as sizing } from './size/sizing.js';
import { mount as stacking } from './layers/stacking.js';
import { mount as tidy } from './tidy/tidy.js';
import { listen as listenToChanges } from './underway.js';

const modules = { askew, bench, choices, clean, drop, field, folding, format, groups, inktools, layers, levels, marks, merging, offcut, queue, sending, sheet, sizing, stacking, tidy };
/** @type {Map<Element, () => void>} */
const mounted = new Map();

function mountAll() {
  for (const [element, unmount] of mounted) {
    if (!element.isConnected) {
      unmount();
      mounted.delete(element);
    }
  }
  // The bench comes first: what is mounted beside it asks it for views and tools.
  const all = [...document.querySelectorAll('[data-mount]')];
  all.sort((a, b) => Number(b.dataset.mount === 'bench') - Number(a.dataset.mount === 'bench'));
  for (const element of all) {
    const mount = modules[element.dataset.mount];
    if (mount && !mounted.has(element)) mounted.set(element, mount(element));
  }
}

// What leads to a group of another line chooses it beforehand.
document.addEventListener('click', (event) => {
  const link = /** @type {Element} */ (event.target).closest('[data-chooses]');
  if (!link) return;
  const [line, group] = /** @type {HTMLElement} */ (link).dataset.chooses.split(' ');
  sessionStorage.setItem(`group-${line}`, group);
}, { capture: true });
document.addEventListener('click', (event) => {
  const button = /** @type {Element} */ (event.target).closest('[data-print], [data-clears]');
  if (button?.hasAttribute('data-print')) window.print();
  if (button?.dataset.clears) {
    document.getElementById(button.dataset.clears)?.replaceChildren();
  }
});
// Enter in a field is a change like any other: no form leaves the page by itself but the search, which says
// where it goes.
document.addEventListener('submit', (event) => {
  if (!(/** @type {Element} */ (event.target)).hasAttribute('action')) event.preventDefault();
});
for (const name of ['htmx:afterSwap', 'htmx:afterSettle']) document.addEventListener(name, mountAll);
document.addEventListener('htmx:oobAfterSwap', mountAll);
listenToKeys(document, listenToChanges(document));
listenToBusy(document);
listenWhileAway(document);
listenToDownloads(document);
listenToFocus(document);
listenToPopups(document);
listenToProblems(document);
mountAll();
