// Arrow keys move the head while one of its buttons has the focus.

const KEYS = { ArrowLeft: 'left', ArrowRight: 'right', ArrowUp: 'up', ArrowDown: 'down' };

/**
 * @param {HTMLElement} section the marks of a page
 * @returns {() => void} takes the listener off
 */
export function mount(section) {
  /** @param {KeyboardEvent} event */
  const move = (event) => {
    const way = KEYS[/** @type {keyof typeof KEYS} */ (event.key)];
    const head = event.target instanceof Element ? event.target.closest('.head') : null;
    if (!way || !head) return;
    event.preventDefault();
    /** @type {HTMLElement | null} */
    const button = head.querySelector(`[data-way=${way}]`);
    button?.focus();
    button?.click();
  };
  section.addEventListener('keydown', move);
  return () => section.removeEventListener('keydown', move);
}
