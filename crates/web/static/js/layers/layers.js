// The Layers line: what the bench shows of layers, pieces that are picked, bridges drawn by hand.
import { ask, take } from '../ask.js';
import { bridgeTool } from './bridgetool.js';
import { isTyping, nameOf } from '../keys.js';
import { pickBar } from '../bench/pickbar.js';
import { Picked } from '../bench/picked.js';
import { pickTool } from '../bench/picktool.js';
import { mmPerPixel } from '../bench/sight.js';

// What the bench shows outlives a change of the ticket.
let shows = 'assembled';
let insert = null;

/**
 * @param {HTMLElement} element
 * @returns {() => void} takes the tools off the bench again
 */
export function mount(element) {
  const bench = document.getElementById('bench');
  const canvas = bench.querySelector('canvas');
  const find = (selector) => element.querySelector(selector);
  const { job } = element.dataset;
  const off = new AbortController();
  const on = (target, name, listener) => target.addEventListener(name, listener, { signal: off.signal });
  const picked = new Picked();
  const px = () => mmPerPixel(canvas);
  const change = (values) => ask(`/jobs/${job}/layers`, { line: 'layers', ...values });
  const say = (words) => { find('#problem-layers').textContent = words; };
  let bridges = [];
  let inHand = 'pick';

  const look = (view) => {
    shows = view;
    for (const b of element.querySelectorAll('[data-shows]')) b.setAttribute('aria-pressed', String(b.dataset.shows === view));
    bench.dispatchEvent(new CustomEvent('look', { detail: view }));
  };
  const tell = () => {
    const all = picked.all;
    const inks = new Set(all.map((i) => i.ink));
    const [ink] = inks.size === 1 ? inks : [];
    const layer = find(`#to-layer option[value="${ink}"]`)?.textContent;
    const words = all.length ? `${all.length} ${all.length === 1 ? 'piece is' : 'pieces are'} picked${layer ? `, of ${layer}` : ''}.` : 'Nothing is picked.';
    for (const told of ['#layer-picked', '#stones-picked']) find(told).textContent = words;
    element.dataset.picked = picked.ids.join(' ');
    bar.show(inHand === 'pick' ? picked.box : null, 'pieces');
    bench.dispatchEvent(new Event('again'));
  };
  /** All pieces of the layers that these are of. */
  const pickAlike = (pieces) => {
    const inks = new Set(pieces.map((i) => i.ink));
    if (!inks.size) say('Click a piece of the layer on the bench first.');
    picked.set(picked.items.filter((i) => inks.has(i.ink)).map((i) => i.id));
    tell();
  };
  async function load() {
    const { key } = bench.dataset;
    const get = async (what) => {
      const answer = await fetch(`/jobs/${job}/results/${key}/${what}.json`, { signal: off.signal });
      return answer.ok ? answer.json() : null;
    };
    const [items, built] = await Promise.all([get('items'), get('layers')]);
    if (bench.dataset.key !== key) return;
    if (items) picked.show(items.items);
    bridges = built?.bridges ?? [];
    element.dataset.items = key;
    tell();
  }
  const tools = {
    // Pieces are picked here; they are moved in Tidy.
    pick: () => ({
      ...pickTool(picked, { px, snaps: {}, grid: 5, changed: tell, fixed: true }),
      // The second press has picked what lies below.
      twice(at) { pickAlike(picked.under(at, px()).slice(0, 1)); },
    }),
    bridge: () => bridgeTool({
      px, bridges: () => bridges,
      draw: (line) => change({ do: 'bridge-add', ends: line.join(','), width: find('#bridge-width').value }),
      move: (n, line) => change({ do: 'bridge-move', nth: String(n), ends: line.join(',') }),
      remove: (n) => change({ do: 'bridge-remove', nth: String(n) }),
    }),
  };
  let tool = null;
  const hold = (name) => {
    inHand = name;
    tool = tools[name]();
    take(tool);
    bar.show(name === 'pick' ? picked.box : null, 'pieces');
    for (const b of element.querySelectorAll('[data-tool]')) b.setAttribute('aria-pressed', String(b.dataset.tool === name));
  };
  on(bench, 'drawn', () => load().catch(() => {}));
  on(bench, 'down-tools', () => hold('pick'));
  const press = (button) => {
    const { shows: view, tool: wanted, give } = button.dataset;
    if (view) look(view);
    if (wanted) hold(wanted === inHand ? 'pick' : wanted);
    if (button.hasAttribute('data-pick-all')) pickAlike(picked.all);
    const items = picked.ids.join(',');
    if (give) change({ do: 'recolour', items, to: give });
    if (button.hasAttribute('data-recolour')) change({ do: 'recolour', items, to: find('#to-layer').value });
    if (button.hasAttribute('data-inlay')) change({ do: 'inlay', items, material: find('#inlay-material').value, fit: find('#inlay-fit').value });
    if (button.hasAttribute('data-stones')) {
      const typed = (name) => find(`#stone-${name}`).value;
      change({ do: 'stones', items, ...Object.fromEntries(['size', 'second', 'laid', 'gap', 'wider', 'material'].map((name) => [name, typed(name)])) });
    }
    if (button.hasAttribute('data-plate')) change({ do: 'backing', material: find('#inlay-material').value, margin: find('#plate-margin').value });
  };
  on(element, 'click', ({ target }) => {
    const button = target.closest('button');
    if (button) press(button);
  });
  // The same beside what is picked: a piece given another ink lies on that one's layer.
  const layers = () => [...find('#to-layer').options].map((o) => ({ value: o.value, label: o.textContent, colour: null }));
  const bar = pickBar(bench, press, layers);
  const material = find('#inlay-material');
  if (insert && [...material.options].some((o) => o.value === insert)) material.value = insert;
  on(material, 'change', () => { insert = material.value; });
  // Pieces are picked by key too, with the bench in focus; after Escape, Tab leaves it.
  let leaving = false;
  for (const name of ['pointerdown', 'blur']) on(canvas, name, () => { leaving = false; });
  on(canvas, 'keydown', (event) => {
    if (inHand !== 'pick') return;
    if (event.key === 'Escape') {
      leaving = true;
      picked.set([]);
      tell();
    } else if (nameOf(event, 'pieces') === 'alike') {
      event.preventDefault();
      pickAlike(picked.all);
    } else if (!(leaving && event.key === 'Tab') && picked.byKey(nameOf(event, 'shapes'))) {
      event.preventDefault();
      tell();
    }
  });
  on(document, 'keydown', (event) => {
    if (isTyping(event) || inHand !== 'bridge' || nameOf(event, 'bridge') !== 'delete') return;
    event.preventDefault();
    tool.act('delete');
  });
  hold('pick');
  look(find(`[data-shows="${shows}"]`) ? shows : 'assembled');
  if (bench.dataset.shown) load().catch(() => {});
  return () => {
    off.abort();
    bar.off();
    take(null);
    // Another line may show what it wants.
    bench.dispatchEvent(new CustomEvent('look', { detail: null }));
  };
}
