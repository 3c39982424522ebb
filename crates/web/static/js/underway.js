// Undo and redo wait for the changes that are under way: what is taken back is what was done last, and
// nobody's press is lost because a button was just drawn anew.

/** What may settle after an answer before the next request is made, ms. */
const SETTLED = 60;

/**
 * @param {Document} page
 * @returns {(name: 'undo' | 'redo') => void} does it, at once or as soon as nothing is under way
 */
export function listen(page) {
  /** @type {string[]} */
  const waiting = [];
  let underWay = 0;
  // A preview changes nothing.
  const changes = (event) => {
    const asked = event.detail.requestConfig;
    return asked?.verb === 'post' && !asked.path.endsWith('/try');
  };
  const press = (name) => {
    const button = /** @type {?HTMLButtonElement} */ (page.getElementById(name));
    if (button && !button.disabled) button.click();
  };
  const settle = () => setTimeout(() => {
    if (underWay === 0 && waiting.length) press(waiting.shift());
    // One that could not be pressed makes no request that would call for the next.
    if (underWay === 0 && waiting.length) settle();
  }, SETTLED);

  const begin = () => { underWay += 1; };
  const end = () => {
    underWay = Math.max(0, underWay - 1);
    if (underWay === 0) settle();
  };
  page.addEventListener('htmx:beforeSend', (event) => { if (changes(event)) begin(); });
  page.addEventListener('htmx:afterRequest', (event) => { if (changes(event)) end(); });
  // What a script asks for is under way before it is sent.
  page.addEventListener('asked', begin);
  page.addEventListener('answered', end);
  page.addEventListener('click', (event) => {
    const button = /** @type {Element} */ (event.target).closest?.('#undo, #redo');
    if (!button || underWay === 0) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    waiting.push(button.id);
  }, true);
  return (name) => {
    if (underWay > 0) waiting.push(name);
    else press(name);
  };
}
