// Keys of the whole page. Keys of the bench's view live in bench.js.

/** Whether a key press belongs to a text field. */
export function isTyping(event) {
  return Boolean(event.target.closest?.('input:not([type="range"]):not([type="checkbox"]):not([type="radio"]), textarea, select'));
}

/**
 * @param {Document} page
 * @param {(name: 'undo' | 'redo') => void} goBack
 */
export function listen(page, goBack) {
  page.addEventListener('keydown', (event) => {
    const command = event.ctrlKey || event.metaKey;
    if (command && event.key.toLowerCase() === 'z' && !isTyping(event)) {
      const name = event.shiftKey ? 'redo' : 'undo';
      if (page.getElementById(name)) {
        event.preventDefault();
        goBack(name);
      }
      return;
    }
    if (command || event.altKey || isTyping(event)) return;
    // Each line of the ticket says which key opens it.
    const lines = /** @type {NodeListOf<HTMLElement>} */ (page.querySelectorAll('[data-key]'));
    [...lines].find((line) => line.dataset.key === event.key)?.click();
    if (event.key === '?') page.getElementById('keys')?.togglePopover();
  });
}
