// Levels moved on the histogram: what is dragged is the figure of the field that belongs to it.

// Fields that a mark on the histogram stands for.
const NAMES = ['threshold', 'above', 'level1', 'level2', 'level3', 'level4', 'level5'];
const MOST = 100;

/**
 * @param {HTMLElement} element around the histogram, in the form of choices
 * @returns {() => void} takes the listeners off
 */
export function mount(element) {
  const form = /** @type {HTMLFormElement} */ (element.closest('form'));
  /** @type {?HTMLInputElement} */
  let moved = null;

  const fields = () => NAMES.map((name) => /** @type {HTMLInputElement} */ (form.elements.namedItem(name)))
    .filter((field) => field && Number.isFinite(Number.parseFloat(field.value)));
  const percentAt = (event) => {
    const box = element.getBoundingClientRect();
    return Math.min(Math.max((event.clientX - box.left) / box.width, 0), 1) * MOST;
  };
  const tell = (kind) => moved.dispatchEvent(new Event(kind, { bubbles: true }));

  const begin = (event) => {
    if (event.button !== 0) return;
    const at = percentAt(event);
    const off = (field) => Math.abs(Number.parseFloat(field.value) - at);
    [moved] = fields().sort((a, b) => off(a) - off(b));
    if (!moved) return;
    event.preventDefault();
    element.setPointerCapture(event.pointerId);
    drag(event);
  };
  const drag = (event) => {
    if (!moved) return;
    const value = percentAt(event).toFixed(0);
    if (value === moved.value) return;
    moved.value = value;
    tell('input');
  };
  const end = () => {
    if (moved) tell('change');
    moved = null;
  };
  element.addEventListener('pointerdown', begin);
  element.addEventListener('pointermove', drag);
  element.addEventListener('pointerup', end);
  element.addEventListener('pointercancel', end);
  return () => {
    element.removeEventListener('pointerdown', begin);
    element.removeEventListener('pointermove', drag);
    element.removeEventListener('pointerup', end);
    element.removeEventListener('pointercancel', end);
  };
}
