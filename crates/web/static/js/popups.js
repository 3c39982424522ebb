// What unfolds over the page folds up again: by Escape, or where one presses elsewhere.

const POPUPS = 'details.history[open], .pick-bar details[open]';

/** @param {Document} page */
export function listen(page) {
  const close = (except) => {
    for (const open of page.querySelectorAll(POPUPS)) if (!except || !open.contains(except)) open.removeAttribute('open');
  };
  page.addEventListener('pointerdown', ({ target }) => close(target));
  page.addEventListener('keydown', (event) => {
    const open = event.key === 'Escape' ? (/** @type {Element} */ (event.target)).closest?.(POPUPS) : null;
    if (!open) return;
    event.stopPropagation();
    open.removeAttribute('open');
    open.querySelector('summary')?.focus();
  }, true);
}
