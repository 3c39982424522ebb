// Focus stays where it was when a part of the page is drawn anew, or goes to what stands there now; and what is
// scrolled stays scrolled.

const REACHABLE = 'a[href], button, input:not([type="hidden"]), select, textarea, summary, [tabindex="0"]';

/** What an element is known by, from one drawing of the page to the next. */
function knownBy(element) {
  if (element.id) return `#${element.id}`;
  const data = Object.entries(element.dataset).sort(([a], [b]) => (a < b ? -1 : 1)).flat();
  const words = element.getAttribute('aria-label') ?? element.textContent.trim().slice(0, 60);
  return [element.tagName, element.getAttribute('name'), element.type === 'radio' ? element.value : '', ...data, words].join('|');
}

/** @returns {HTMLElement[]} what can be focused in a part of the page, in its order */
function reachable(part) {
  const all = /** @type {HTMLElement[]} */ ([...part.querySelectorAll(REACHABLE)]);
  return all.filter((e) => !(/** @type {HTMLButtonElement} */ (e)).disabled && e.checkVisibility());
}

/** @param {Document} page */
export function listen(page) {
  /** @type {?{element: HTMLElement, known: string, nth: number, part: string, at: number}} */
  let before = null;
  let scrolled = 0;

  const note = () => {
    const element = /** @type {HTMLElement} */ (page.activeElement);
    if (!element || element === page.body) return;
    const part = element.closest('#line-body, #head, #rail, #ticket, #main') ?? page.body;
    const all = reachable(part);
    const known = knownBy(element);
    const same = all.filter((e) => knownBy(e) === known);
    before = { element, known, nth: Math.max(0, same.indexOf(element)), part: part.id, at: all.indexOf(element) };
  };
  const restore = () => {
    const body = page.getElementById('line-body');
    if (body && scrolled && body.scrollTop !== scrolled) body.scrollTop = scrolled;
    if (!before || (page.activeElement && page.activeElement !== page.body)) return;
    const { element, known, nth, part, at } = before;
    const usable = element.isConnected && !(/** @type {HTMLButtonElement} */ (element)).disabled && element.checkVisibility();
    const all = reachable(page.getElementById(part) ?? page);
    const same = all.filter((e) => knownBy(e) === known);
    // Itself, the same one drawn anew, what stands in its place now, the open line.
    const next = usable ? element : same[nth] ?? same[0] ?? all[Math.min(Math.max(at, 0), all.length - 1)];
    (next ?? /** @type {?HTMLElement} */ (page.querySelector('.line[aria-current]')))?.focus({ preventScroll: true });
  };
  page.addEventListener('focusin', note);
  // Once for an answer, before the first part of it is drawn.
  page.addEventListener('htmx:beforeSwap', () => {
    scrolled = page.getElementById('line-body')?.scrollTop ?? 0;
    note();
  });
  for (const name of ['htmx:afterSettle', 'htmx:afterRequest', 'answered']) page.addEventListener(name, () => queueMicrotask(restore));
  // What hides or switches itself off hands the focus on.
  page.addEventListener('focusout', (event) => {
    if (event.relatedTarget) return;
    setTimeout(() => {
      const element = /** @type {HTMLButtonElement} */ (event.target);
      const gone = !element.isConnected || element.disabled || !element.checkVisibility();
      if (gone && page.hasFocus()) restore();
      // Who left a field for nothing in particular is not taken back to it.
      if (!gone && page.activeElement === page.body) before = null;
    }, 0);
  });
}
