// Every key of the pages in one table: where it counts, what is pressed, what it does in words, and the name by
// which the modules know it. The list under Help is made of it, so it cannot say anything else.

/**
 * @typedef {'page' | 'view' | 'shapes' | 'pieces' | 'nodes' | 'tool' | 'parts' | 'slider' | 'machine' | 'wipe' | 'bridge'} Where
 * @typedef {{where: Where, name: string, press: string[], shown: string, words: string}} Row
 */

const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
/** @param {string[]} before */
const arrows = (...before) => before.flatMap((b) => Object.keys(WAYS).map((way) => b + way));

/** @type {Row[]} */
export const TABLE = [
  { where: 'page', name: 'undo', press: ['Ctrl+z'], shown: 'Ctrl Z', words: 'undo' },
  { where: 'page', name: 'redo', press: ['Ctrl+Shift+z', 'Ctrl+y'], shown: 'Ctrl Shift Z or Ctrl Y', words: 'redo' },
  { where: 'page', name: 'fold-ticket', press: ['t'], shown: 'T', words: 'fold the ticket away, and back' },
  { where: 'page', name: 'fold-rail', press: ['i'], shown: 'I', words: 'fold the inks away, and back' },
  { where: 'page', name: 'help', press: ['?'], shown: '?', words: 'this list' },
  { where: 'view', name: 'next', press: ['v'], shown: 'V', words: 'next view' },
  { where: 'view', name: 'artwork', press: ['a'], shown: 'A', words: 'held: see the artwork' },
  { where: 'view', name: 'loupe', press: ['z'], shown: 'Z', words: 'loupe: the artwork’s own pixels' },
  { where: 'view', name: 'fit', press: ['0'], shown: '0', words: 'fit what is worked on to the bench' },
  { where: 'view', name: 'nearer', press: ['+', '='], shown: '+', words: 'nearer' },
  { where: 'view', name: 'farther', press: ['-'], shown: '−', words: 'farther' },
  { where: 'view', name: 'pan', press: arrows('Ctrl+'), shown: 'Ctrl ← ↑ → ↓', words: 'move the bench; Space and drag, or two fingers, do too' },
  { where: 'view', name: 'put-down', press: ['Escape'], shown: 'Esc', words: 'put the tool down; then Tab leaves the bench' },
  { where: 'shapes', name: 'next', press: ['Tab'], shown: 'Tab', words: 'pick the next shape' },
  { where: 'shapes', name: 'previous', press: ['Shift+Tab'], shown: 'Shift Tab', words: 'pick the one before' },
  { where: 'shapes', name: 'bar', press: ['Enter'], shown: 'Enter', words: 'to the bar beside what is picked' },
  { where: 'shapes', name: 'nudge', press: arrows('', 'Shift+', 'Alt+'), shown: '← ↑ → ↓', words: 'move what is picked 1 mm; with Shift 10 mm, with Alt 0.1 mm' },
  { where: 'shapes', name: 'delete', press: ['Delete', 'Backspace'], shown: 'Delete', words: 'delete what is picked' },
  { where: 'shapes', name: 'all', press: ['Ctrl+a'], shown: 'Ctrl A', words: 'pick all' },
  { where: 'shapes', name: 'duplicate', press: ['Ctrl+d'], shown: 'Ctrl D', words: 'duplicate' },
  { where: 'shapes', name: 'group', press: ['Ctrl+g'], shown: 'Ctrl G', words: 'group' },
  { where: 'shapes', name: 'ungroup', press: ['Ctrl+Shift+g'], shown: 'Ctrl Shift G', words: 'ungroup' },
  { where: 'pieces', name: 'alike', press: ['Shift+Enter'], shown: 'Shift Enter', words: 'pick all pieces of its layer, as a double click does' },
  { where: 'nodes', name: 'next', press: ['Tab'], shown: 'Tab', words: 'pick the next node of what is picked' },
  { where: 'nodes', name: 'previous', press: ['Shift+Tab'], shown: 'Shift Tab', words: 'pick the one before' },
  { where: 'nodes', name: 'nudge', press: arrows('', 'Shift+', 'Alt+'), shown: '← ↑ → ↓', words: 'move the picked nodes, as shapes' },
  { where: 'nodes', name: 'turn-left', press: ['[', ','], shown: ', or [', words: 'turn the node’s handle by 5° to the left' },
  { where: 'nodes', name: 'turn-right', press: [']', '.'], shown: '. or ]', words: 'to the right' },
  { where: 'tool', name: 'move', press: arrows('', 'Shift+', 'Alt+'), shown: '← ↑ → ↓', words: 'move the crosshair 10 px; with Shift 50 px, with Alt 1 px' },
  { where: 'tool', name: 'press', press: ['Enter'], shown: 'Enter', words: 'press there; what is dragged is pressed once more where it ends' },
  { where: 'tool', name: 'end', press: ['Shift+Enter'], shown: 'Shift Enter', words: 'end the line, as a double click does' },
  { where: 'bridge', name: 'delete', press: ['Delete', 'Backspace'], shown: 'Delete', words: 'take the picked bridge out' },
  { where: 'parts', name: 'next', press: ['Tab'], shown: 'Tab', words: 'take the next part in hand' },
  { where: 'parts', name: 'previous', press: ['Shift+Tab'], shown: 'Shift Tab', words: 'the one before' },
  { where: 'parts', name: 'nudge', press: arrows('', 'Shift+', 'Alt+'), shown: '← ↑ → ↓', words: 'move it, as shapes' },
  { where: 'parts', name: 'turn-left', press: ['[', ','], shown: ', or [', words: 'turn it by 15° to the left' },
  { where: 'parts', name: 'turn-right', press: [']', '.'], shown: '. or ]', words: 'to the right' },
  { where: 'slider', name: 'ten', press: arrows('Shift+'), shown: 'Shift ← →', words: 'ten steps; without Shift one' },
  { where: 'machine', name: 'go', press: ['p'], shown: 'P', words: 'pause the run, or go on' },
  { where: 'machine', name: 'stop', press: ['s'], shown: 'S', words: 'stop it: the tool goes up, the beam out' },
  { where: 'wipe', name: 'move', press: ['ArrowLeft', 'ArrowRight', 'Shift+ArrowLeft', 'Shift+ArrowRight'], shown: '← →', words: 'move the wipe; with Shift ten times as far' },
];

/** What the places are called in the list. */
export const PLACES = {
  page: 'Everywhere', view: 'The bench', shapes: 'Shapes, with the bench in focus', pieces: 'Pieces of layers, with the bench in focus', nodes: 'Nodes, with the bench in focus',
  tool: 'A tool that points, with the bench in focus', bridge: 'Bridges', parts: 'Parts on the sheet, with the bench in focus',
  machine: 'A machine at work', slider: 'A slider', wipe: 'The handle of the wipe',
};

/** Whether a key press belongs to a text field. */
export function isTyping(event) {
  return Boolean(event.target.closest?.('input:not([type="range"]):not([type="checkbox"]):not([type="radio"]), textarea, select'));
}

/**
 * A key press as the table writes it. A sign is what it is, however the layout types it.
 * @param {Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'> & {getModifierState?: (name: string) => boolean}} event
 */
export function pressed(event) {
  const letter = /^[a-z]$/i.test(event.key);
  const sign = event.key.length === 1 && !letter;
  const typed = sign && event.getModifierState?.('AltGraph');
  const held = [];
  if ((event.ctrlKey || event.metaKey) && !typed) held.push('Ctrl');
  if (event.altKey && !typed) held.push('Alt');
  if (event.shiftKey && !sign) held.push('Shift');
  return [...held, letter ? event.key.toLowerCase() : event.key].join('+');
}

/**
 * @param {KeyboardEvent} event
 * @param {Where} where
 * @returns {?string} the name of what is to be done there
 */
export function nameOf(event, where) {
  const press = pressed(event);
  return TABLE.find((row) => row.where === where && row.press.includes(press))?.name ?? null;
}

/** @param {KeyboardEvent} event @returns {[number, number]} the way an arrow points */
export const wayOf = (event) => WAYS[event.key] ?? [0, 0];

/** @param {KeyboardEvent} event @returns {number} how far an arrow moves things, mm */
export const stepOf = (event) => (event.altKey ? 0.1 : event.shiftKey ? 10 : 1);

/** Fills a list of all keys, as under Help. */
function list(into) {
  for (const [where, title] of Object.entries(PLACES)) {
    const head = document.createElement(into.dataset.keyTable || 'h3');
    head.textContent = title;
    const rows = document.createElement('dl');
    for (const row of TABLE.filter((r) => r.where === where)) {
      const [keys, words] = [document.createElement('dt'), document.createElement('dd')];
      for (const part of row.shown.split(' ')) {
        if (part === 'or') { keys.append(' or '); continue; }
        const key = document.createElement('kbd');
        key.textContent = part;
        keys.append(key, ' ');
      }
      words.textContent = row.words;
      rows.append(keys, words);
    }
    into.append(head, rows);
  }
}

/**
 * @param {Document} page
 * @param {(name: 'undo' | 'redo') => void} goBack
 */
export function listen(page, goBack) {
  for (const into of page.querySelectorAll('[data-key-table]')) list(into);
  page.addEventListener('keydown', (event) => {
    if (isTyping(event)) return;
    const name = nameOf(event, 'page');
    if ((name === 'undo' || name === 'redo') && page.getElementById(name)) {
      event.preventDefault();
      goBack(name);
      return;
    }
    if (name === 'help') page.getElementById('keys')?.togglePopover();
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    // Each line of the ticket says which key opens it.
    const lines = /** @type {NodeListOf<HTMLElement>} */ (page.querySelectorAll('[data-key]'));
    [...lines].find((line) => line.dataset.key === event.key)?.click();
  });
}
