// One thing of a list dragged onto another, by mouse, pen or finger.

/** How far it moves before it counts as dragged, px. */
const STILL = 6;
const CONTROLS = 'button, input:not([readonly]), select, textarea, a';

/**
 * A finger drags by the parts that `.grip` marks; elsewhere it scrolls the list.
 * @param {HTMLElement} list
 * @param {string} selector what can be dragged, and dropped onto
 * @param {(dragged: HTMLElement, onto: HTMLElement) => void} dropped
 * @returns {() => void} takes the listeners off
 */
export function dragOnto(list, selector, dropped) {
  /** @type {?{item: HTMLElement, from: number[], going: boolean}} */
  let held = null;
  const over = (item) => {
    for (const other of list.querySelectorAll('.over')) other.classList.remove('over');
    if (item && item !== held?.item) item.classList.add('over');
  };
  const under = (event) => {
    const item = document.elementFromPoint(event.clientX, event.clientY)?.closest(selector);
    return item && list.contains(item) ? /** @type {HTMLElement} */ (item) : null;
  };
  const put = () => {
    held?.item.classList.remove('dragged');
    over(null);
    held = null;
  };
  const on = {
    pointerdown(event) {
      const item = event.target.closest(selector);
      const grip = event.target.closest('.grip');
      const taken = grip || (event.pointerType !== 'touch' && !event.target.closest(CONTROLS));
      if (item && taken && event.button === 0) held = { item, from: [event.clientX, event.clientY], going: false };
    },
    pointermove(event) {
      // Let go where nothing was heard of it.
      if (held && !event.buttons) put();
      if (!held) return;
      if (!held.going && Math.hypot(event.clientX - held.from[0], event.clientY - held.from[1]) > STILL) {
        held.going = true;
        held.item.classList.add('dragged');
        list.setPointerCapture(event.pointerId);
      }
      if (held.going) over(under(event));
    },
    pointerup(event) {
      const [from, onto] = held?.going ? [held.item, under(event)] : [null, null];
      put();
      if (from && onto && onto !== from) dropped(from, onto);
    },
    pointercancel: put,
  };
  const escape = (event) => { if (event.key === 'Escape') put(); };
  for (const [name, listener] of Object.entries(on)) list.addEventListener(name, listener);
  document.addEventListener('keydown', escape);
  return () => {
    for (const [name, listener] of Object.entries(on)) list.removeEventListener(name, listener);
    document.removeEventListener('keydown', escape);
  };
}
