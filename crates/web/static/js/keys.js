// Keys of the whole page. Keys of the bench's view live in bench.js.

const LINES = ['artwork', 'clean', 'inks', 'trace', 'tidy', 'layers', 'size', 'sheet', 'send'];

/** Whether a key press belongs to a text field. */
export function isTyping(event) {
  return Boolean(event.target.closest?.('input:not([type="range"]):not([type="checkbox"]):not([type="radio"]), textarea, select'));
}

/** @param {Document} page */
export function listen(page) {
  page.addEventListener('keydown', (event) => {
    const command = event.ctrlKey || event.metaKey;
    if (command && event.key.toLowerCase() === 'z' && !isTyping(event)) {
      const button = page.getElementById(event.shiftKey ? 'redo' : 'undo');
      if (button && !button.disabled) {
        event.preventDefault();
        button.click();
      }
      return;
    }
    if (command || event.altKey || isTyping(event)) return;
    const line = LINES[Number(event.key) - 1];
    if (line) page.getElementById(`line-${line}`)?.click();
    if (event.key === '?') page.getElementById('keys')?.togglePopover();
  });
}
