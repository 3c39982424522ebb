// The Tidy line: what is picked, the tools that pick and draw, and the buttons that ask for edits.
import { ask, find, take } from '../ask.js';
import { Picked } from '../bench/picked.js';
import { followTool } from './followtool.js';
import { nameOf, stepOf, wayOf } from '../keys.js';
import { tell as say_ } from '../tell.js';
import { Refused, read } from '../lengths.js';
import { flipped, typed } from './maps.js';
import { nodeTool } from './nodetool.js';
import { pickBar } from '../bench/pickbar.js';
import { pickTool } from '../bench/picktool.js';
import { reveal } from '../groups.js';
import { sketchTool } from './sketchtool.js';
import { switches } from '../bench/snap.js';
import * as tools from '../bench/tools.js';
import { mmPerPixel } from '../bench/sight.js';

const DRAWN = ['polyline', 'pen', 'rectangle', 'ellipse', 'circle', 'arc', 'follow'];
const PEN = 0.25;

/**
 * @param {HTMLElement} element
 * @returns {() => void} takes the tools off the bench again
 */
export function mount(element) {
  const bench = document.getElementById('bench');
  const canvas = bench.querySelector('canvas');
  const find_ = (selector) => element.querySelector(selector);
  const { job, unit } = element.dataset;
  const perUnit = unit === 'in' ? 25.4 : 1;
  const off = new AbortController();
  const on = (target, name, listener) => target.addEventListener(name, listener, { signal: off.signal });
  const picked = new Picked();
  const snaps = switches(element);
  const problem = find_('#problem-tidy');
  const again = () => bench.dispatchEvent(new Event('again'));
  const px = () => mmPerPixel(canvas);
  const mm = (selector) => read(find_(selector).value, 'length');
  const mmOrNought = async (selector) => (find_(selector).value.trim() ? mm(selector) : 0);
  const square = (selector) => read(find_(selector).value, 'area');
  const degrees = (selector) => read(find_(selector).value, 'angle');
  const shown = (value, decimals = 2) => (value / perUnit).toFixed(unit === 'in' ? decimals + 1 : decimals);
  /** An area in words. */
  const squares = (area) => {
    if (unit === 'in') return `${(area / 25.4 ** 2).toFixed(3)} in²`;
    return area < 1000 ? `${area.toFixed(area < 10 ? 2 : 0)} mm²` : `${(area / 100).toFixed(1)} cm²`;
  };
  let tool = null;
  let inHand = null;
  let fresh = false;
  let refit = null;
  /** Shapes under so many mm² are small ones. */
  let little = 0;

  const say = (words) => { problem.textContent = words; };
  /** Does what needs typed figures; one that is none is told, and nothing is done. */
  const tried = (what) => Promise.resolve().then(what).catch((error) => {
    if (!(error instanceof Refused)) throw error;
    say(error.message);
  });
  const send = (edit) => {
    say('');
    refit = null;
    find_('#refit-report').textContent = '';
    fresh = true;
    return ask(`/jobs/${job}/edit`, { edit: JSON.stringify(edit) }).then((done) => {
      // A refusal leaves the old drawing; what was dragged goes back to its place.
      if (!done) { fresh = false; tool?.settled?.(); again(); }
    });
  };
  const pigment = () => {
    const choice = element.querySelector('#tidy-ink');
    return choice.value === 'new' ? { colour: element.querySelector('#tidy-colour').value } : { ink: Number(choice.value) };
  };

  // What is picked, in words and figures.
  function tell() {
    const all = picked.all;
    const nodes = all.reduce((sum, i) => sum + i.nodes, 0);
    const length = all.reduce((sum, i) => sum + i.length, 0);
    const area = all.reduce((sum, i) => sum + i.area, 0);
    const { box } = picked;
    find_('#place').hidden = !box;
    if (box) {
      const values = { x: box[0], y: box[1], w: box[2] - box[0], h: box[3] - box[1] };
      for (const [name, value] of Object.entries(values)) {
        const field = find_(`#place-${name}`);
        if (field !== document.activeElement) field.value = shown(value);
      }
    }
    const words = all.length
      ? `${all.length} ${all.length === 1 ? 'item' : 'items'} · ${nodes} nodes · ${shown(length, 1)} ${unit} long · ${squares(area)}`
      : 'Nothing is picked.';
    find_('#picked').textContent = tool?.told ? `${words} ${tool.told}` : words;
    showLetters();
    element.dataset.picked = picked.ids.join(' ');
    showBar(box);
    const small = picked.items.filter((i) => i.pen === undefined && i.area < little);
    find_('#small-count').textContent = String(small.length);
    again();
  }

  async function load() {
    const { key } = bench.dataset;
    const answer = await fetch(`/jobs/${job}/results/${key}/items.json`, { signal: off.signal });
    if (!answer.ok) return;
    const { items, made } = await answer.json();
    if (bench.dataset.key !== key) return;
    const before = picked.items.length;
    picked.show(items);
    if (fresh && made.length) picked.set(made);
    fresh = false;
    tool?.settled?.(before !== items.length);
    element.dataset.items = key;
    tell();
    if (mending()) count();
  }
  on(bench, 'drawn', () => load().catch(() => {}));

  // Lettering: what is picked fills the fields, and is set anew from them.
  const letters = async (at) => ({
    words: find_('#letter-words').value, face: find_('#letter-face').value, cap_height: await mm('#letter-cap'),
    spacing: await mmOrNought('#letter-spacing'), radius: await mmOrNought('#letter-radius'), at,
  });
  function showLetters() {
    const text = picked.all[0]?.text;
    if (!text || find_('#group-letters').contains(document.activeElement)) return;
    find_('#letter-words').value = text.words;
    find_('#letter-face').value = text.face;
    for (const [name, value] of [['cap', text.cap_height], ['spacing', text.spacing], ['radius', text.radius]]) find_(`#letter-${name}`).value = shown(value);
    /** @type {HTMLSelectElement} */
    const ink = element.querySelector('#tidy-ink');
    if ([...ink.options].some((o) => o.value === String(picked.all[0].ink))) ink.value = String(picked.all[0].ink);
  }

  // Mending.
  const rules = async (ticked) => {
    const wanted = (name) => !ticked || find_(`[data-rule="${name}"]`).checked;
    return {
      frame: wanted('frame'), close: ticked && find_('[data-rule="close"]').checked, crossings: wanted('crossings'),
      doubled: wanted('doubled') ? 0.02 : null,
      ends: wanted('ends') ? await mm('#rule-ends') : null,
      specks: wanted('specks') ? await square('#rule-specks') : null,
    };
  };
  const count = () => tried(async () => {
    const found = await find(job, { rules: JSON.stringify({ ...await rules(false), close: false }) }, problem, 'faults');
    if (!found) return;
    for (const out of element.querySelectorAll('[data-found]')) out.textContent = String(found[out.dataset.found]);
  });
  const mending = () => !find_('#group-mend').hidden;
  // Pick and Nodes are tools as well; in all other groups what is in hand stays there.
  on(element, 'chosen', ({ detail: group }) => {
    if (group === 'mend') count();
    if (group === 'nodes' && ['pick', 'lasso'].includes(inHand)) hold('nodes');
    if (group === 'pick' && inHand === 'nodes') hold('pick');
  });

  // Refitting, drawn over the old line before it is done.
  const fitting = async () => ({ tolerance: await mm('#refit-tolerance'), pieces: find_('#refit-pieces').value, corner: await degrees('#refit-corner') });
  const look = () => tried(async () => {
    if (!picked.ids.length) { say('Pick something first.'); return; }
    refit = await find(job, { items: picked.ids.join(','), ...await fitting() }, problem, 'refit');
    if (refit) {
      const { before, after, greatest } = refit.report;
      find_('#refit-report').textContent = `${before} nodes before, ${after} after, at most ${shown(greatest, 3)} ${unit} off`;
    }
    again();
  });
  for (const name of ['#refit-tolerance', '#refit-pieces', '#refit-corner']) on(find_(name), 'change', () => { if (refit) look(); });

  const offset = async (sign) => ({ edit: 'offset', items: picked.ids, distance: sign * await mm('#offset-by'), join: find_('#offset-join').value, under: find_('#offset-under').checked ? pigment() : null });
  const items = () => picked.ids;
  const edits = {
    delete: () => ({ edit: 'delete', items: items() }),
    duplicate: () => ({ edit: 'duplicate', items: items(), by: [5, 5] }),
    split: () => ({ edit: 'split', items: items() }),
    combine: () => ({ edit: 'combine', items: items() }),
    group: () => ({ edit: 'group', items: items() }),
    ungroup: () => ({ edit: 'ungroup', items: items() }),
    ink: () => ({ edit: 'ink', items: items(), pigment: pigment() }),
    unite: () => ({ edit: 'boolean', items: items(), how: 'unite' }),
    subtract: () => ({ edit: 'boolean', items: items(), how: 'subtract' }),
    intersect: () => ({ edit: 'boolean', items: items(), how: 'intersect' }),
    exclude: () => ({ edit: 'boolean', items: items(), how: 'exclude' }),
    negative: () => ({ edit: 'negative', items: items() }),
    'cut-out': () => ({ edit: 'cut-out', items: items(), stays: false }),
    grow: () => offset(1),
    shrink: () => offset(-1),
    backing: async () => ({ edit: 'backing', margin: await mm('#backing-margin'), join: find_('#offset-join').value, holes: find_('#backing-holes').checked, pigment: { colour: find_('#backing-colour').value } }),
    refit: async () => ({ edit: 'refit', items: items(), ...await fitting() }),
    mend: async () => ({ edit: 'clean', rules: await rules(true) }),
    mirror: () => ({ edit: 'move', items: items(), map: flipped(true, picked.box) }),
    'upside-down': () => ({ edit: 'move', items: items(), map: flipped(false, picked.box) }),
  };
  const alone = ['backing', 'mend'];
  const act = async (name) => {
    if (name === 'refit-look') { look(); return; }
    if (name === 'letter') {
      const set = picked.all.filter((i) => i.text);
      if (!set.length) say('Pick lettering first.');
      else await send({ lettering: await letters(set[0].text.at), pigment: pigment(), replaces: set.map((i) => i.id) });
      return;
    }
    if (!picked.ids.length && !alone.includes(name)) { say('Pick something first.'); return; }
    // Of picked nodes it is they that go.
    if (name === 'delete' && tool?.holds) { say(tool.act('delete')); return; }
    await send(await edits[name]());
  };

  const press = (button) => {
    const { act: name, node, pick, align, distribute, order, tool: wanted } = button.dataset;
    if (name) tried(() => act(name));
    if (node) say(tool?.act ? tool.act(node) : 'Take the Nodes tool first.');
    if (wanted) {
      hold(wanted === inHand ? 'pick' : wanted);
      if (wanted === 'nodes') reveal(find_(`[data-tool="${inHand}"]`));
    }
    if (align) send({ edit: 'align', items: picked.ids, side: align });
    if (distribute) send({ edit: 'distribute', items: picked.ids, across: distribute === 'true' });
    if (order) send({ edit: 'order', items: picked.ids, to: order });
    if (button.dataset.back) ask(`/jobs/${job}/edited-back`, { which: button.dataset.back });
    if (pick === 'small') tried(() => square('#small-area'));
    if (pick) {
      const inks = new Set(picked.all.map((i) => i.ink));
      const chosen = {
        all: () => picked.items,
        ink: () => picked.items.filter((i) => inks.has(i.ink)),
        inside: () => picked.inside().map((id) => picked.of(id)),
        open: () => picked.items.filter((i) => i.paths.some((p) => !p.closed)),
        small: () => picked.items.filter((i) => i.pen === undefined && i.area < little),
      }[pick]();
      picked.set(chosen.map((i) => i.id));
      tell();
    }
    if (button.dataset.give) send({ edit: 'ink', items: picked.ids, pigment: { ink: Number(button.dataset.give) } });
  };
  on(element, 'click', ({ target }) => {
    const button = target.closest('button');
    if (button) press(button);
  });

  // The same beside what is picked.
  const inks = () => [...element.querySelectorAll('#tidy-ink option[data-colour]')].map((o) => ({ value: o.value, label: o.textContent, colour: o.dataset.colour }));
  const bar = pickBar(bench, press, inks);
  function showBar(box) {
    const draws = DRAWN.includes(inHand) || ['fill', 'letters'].includes(inHand);
    bench.querySelector('.pick-bar [data-tool]').setAttribute('aria-pressed', String(inHand === 'nodes'));
    bar.show(draws ? null : box, tool?.holds ? 'nodes' : 'shapes');
  }
  const readLittle = async () => {
    little = await square('#small-area').catch(() => 0);
    tell();
  };
  on(find_('#small-area'), 'input', readLittle);
  on(element, 'change', ({ target }) => tried(async () => {
    if (target.id === 'tidy-ink') element.querySelector('#tidy-colour').hidden = target.value !== 'new';
    const side = /^place-(.*)$/.exec(target.id)?.[1];
    if (!side || !picked.box) return;
    const value = await read(target.value, side === 'turn' ? 'angle' : 'length');
    if (!picked.box) return;
    const map = typed(side, value, picked.box);
    if (side === 'turn') target.value = '';
    send({ edit: 'move', items: picked.ids, map });
  }));

  // Keys of the bench count while it has the focus. After Escape, Tab leaves it.
  let leaving = false;
  for (const name of ['pointerdown', 'blur']) on(canvas, name, () => { leaving = false; });
  on(canvas, 'keydown', (event) => {
    if (event.key === 'Escape') {
      leaving = true;
      // With nothing else to put down, it is what is picked.
      if (['pick', 'lasso'].includes(inHand) && picked.ids.length) { picked.set([]); tell(); }
      return;
    }
    if (event.key === 'Tab' && leaving) return;
    if (inHand === 'nodes' && tool.key(event)) { event.preventDefault(); return; }
    const name = nameOf(event, 'shapes');
    if (picked.byKey(name)) {
      tell();
      say_(`${find_('#picked').textContent}`);
    } else if (name === 'nudge' && picked.ids.length) {
      const by = wayOf(event).map((v) => v * stepOf(event));
      send({ edit: 'move', items: picked.ids, map: [1, 0, 0, 1, ...by] });
    } else if (['delete', 'duplicate', 'group', 'ungroup'].includes(name) && picked.ids.length) tried(() => act(name));
    else return;
    event.preventDefault();
  });

  // A file brought in is picked next, and can be chosen again.
  on(element, 'htmx:afterRequest', ({ detail }) => {
    if (!detail.elt.querySelector?.('#vector-file')) return;
    fresh = detail.successful;
    if (detail.successful) find_('#problem-vector').textContent = '';
    find_('#vector-file').value = '';
  });

  // Tools.
  let radius = 0;
  const readRadius = () => tried(async () => { radius = await mmOrNought('#draw-radius'); });
  on(find_('#draw-radius'), 'change', readRadius);
  let asking = false;
  let asked = null;
  // Counts what was put down, so that a late answer tells nothing of it.
  let put = 0;
  const own = {
    px, snaps, send, changed: tell, grid: unit === 'in' ? 25.4 / 8 : 5,
    keep: () => find_('#handle-keep').value,
    items: () => picked.items,
    radius: () => radius,
    smooth: () => find_('#draw-smooth').checked,
    draw: (sketch) => send({ sketch, pigment: pigment(), pen: PEN }),
    async follow(from, to, reach) {
      const asked_ = { from_x: from[0], from_y: from[1], x: to[0], y: to[1], reach };
      const answer = await fetch(`/jobs/${job}/follow?${new URLSearchParams(asked_)}`).catch(() => null);
      const way = answer?.ok ? await answer.json() : null;
      find_('#draw-told').textContent = way ? '' : 'No edge of the artwork leads there.';
      again();
      return way;
    },
    /** Asks for the path of what is being drawn; the newest question is answered last. */
    async look(sketch, got) {
      asked = sketch && { sketch, got };
      if (!sketch) {
        put += 1;
        find_('#draw-told').textContent = '';
        return;
      }
      if (asking) return;
      asking = true;
      while (asked) {
        const { sketch: what, got: tell_ } = asked;
        asked = null;
        const before = put;
        const answer = await fetch(`/jobs/${job}/sketch?${new URLSearchParams({ sketch: JSON.stringify(what) })}`).catch(() => null);
        const drawn = answer?.ok ? await answer.json() : null;
        if (drawn && before === put) {
          tell_(drawn);
          const round = drawn.diameter ? `${shown(drawn.diameter)} ${unit} across` : `${shown(drawn.size[0])} × ${shown(drawn.size[1])} ${unit}`;
          find_('#draw-told').textContent = round;
        }
        again();
      }
      asking = false;
    },
  };
  const made = {
    pick: () => pickTool(picked, own),
    lasso: () => pickTool(picked, { ...own, lasso: true }),
    nodes: () => nodeTool(picked, own),
    follow: () => followTool(own),
    letters: () => tools.point((at) => tried(async () => send({ lettering: await letters(at), pigment: pigment() }))),
    fill: () => tools.point((at) => tried(async () => send({ edit: 'fill', at, pigment: pigment(), grow: await mmOrNought('#fill-grow') }))),
  };
  function hold(name) {
    inHand = name;
    for (const b of element.querySelectorAll('[data-tool]')) b.setAttribute('aria-pressed', String(b.dataset.tool === name));
    tool = made[name] ? made[name]() : sketchTool(name, own);
    sessionStorage.setItem('tidy-tool', name);
    const draws = DRAWN.includes(name) || ['fill', 'letters'].includes(name);
    const own_ = tool;
    take({
      ...Object.fromEntries(['down', 'move', 'up', 'twice', 'cancel', 'hover', 'leave'].map((k) => [k, own_[k]?.bind(own_)])),
      cursor: own_.cursor,
      drags: own_.drags,
      still(c, one, view) {
        own_.still?.(c, one, view);
        // What is picked stays marked while something is drawn.
        if (draws) for (const i of picked.all) { c.strokeStyle = '#17786b'; c.lineWidth = 1.5 * one; c.stroke(i.path); }
      },
      paint(c, one, view) {
        own_.paint?.(c, one, view);
        if (!refit) return;
        c.strokeStyle = c.fillStyle = '#8a5600';
        c.lineWidth = 1.6 * one;
        c.stroke(new Path2D(refit.d));
        for (let n = 0; n < refit.nodes.length; n += 2) c.fillRect(refit.nodes[n] - 2 * one, refit.nodes[n + 1] - 2 * one, 4 * one, 4 * one);
      },
    });
    // Over the artwork, what is traced already under a veil.
    bench.dispatchEvent(new CustomEvent('look', { detail: draws ? 'covered' : 'outlines' }));
    tell();
  }
  on(bench, 'down-tools', () => { if (!tool?.back?.()) hold('pick'); again(); });
  queueMicrotask(() => {
    const kept = sessionStorage.getItem('tidy-tool');
    hold(kept && (made[kept] || DRAWN.includes(kept)) ? kept : 'pick');
    if (bench.dataset.shown === bench.dataset.key) load().catch(() => {});
    readRadius();
    readLittle();
  });
  return () => {
    off.abort();
    bar.off();
    if (document.getElementById('tidy')) return;
    take(null);
    bench.dispatchEvent(new CustomEvent('look', { detail: null }));
  };
}
