// What lasts over a second says by name that it is under way. A look at a change that is not kept yet can be
// stopped; the bench shows what was there before.

/** How long nothing is said, ms. */
const SILENT = 1000;

/** @param {Document} page */
export function listen(page) {
  /** Requests under way: those that only look are stopped by what they were asked from. */
  const underWay = new Map();
  let waiting = 0;

  const show = () => {
    const sign = page.getElementById('busy');
    if (!sign) return;
    const line = page.querySelector('.line[aria-current] .t')?.textContent ?? 'The program';
    const looks = [...underWay.values()].every(Boolean);
    sign.hidden = underWay.size === 0;
    sign.querySelector('span').textContent = sign.hidden ? '' : `${line}: ${looks ? 'a look at the change' : 'working'} …`;
    sign.querySelector('button').hidden = !looks;
  };
  const begin = (event) => {
    const { detail } = event;
    const { path } = detail.requestConfig;
    // What comes after the answer, and what is told of files, keeps nobody waiting.
    if (/\/(late|told|state)(\?|$)/.test(path)) return;
    underWay.set(detail.xhr, path.endsWith('/try') ? detail.elt : null);
    if (underWay.size === 1) waiting = window.setTimeout(show, SILENT);
  };
  const end = (event) => {
    if (!underWay.delete(event.detail.xhr) || underWay.size > 0) return;
    clearTimeout(waiting);
    show();
  };
  page.addEventListener('htmx:beforeSend', begin);
  for (const name of ['htmx:afterRequest', 'htmx:sendAbort', 'htmx:sendError']) page.addEventListener(name, end);
  page.addEventListener('click', ({ target }) => {
    if (!(/** @type {Element} */ (target)).closest?.('#busy button')) return;
    for (const form of underWay.values()) if (form) window.htmx.trigger(form, 'htmx:abort');
  });
}
