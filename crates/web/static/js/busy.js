// What lasts over a second says by name what is done and how far it is, and can be stopped: the bench shows what was
// there before.

/** How long nothing is said, ms. */
const SILENT = 1000;
/** How often it is asked how far it is, ms. */
const AGAIN = 500;

/** @param {Document} page */
export function listen(page) {
  /** Requests under way, and whether they only look at a change. @type {Map<XMLHttpRequest, boolean>} */
  const underWay = new Map();
  let waiting = 0;
  const [sign, words, bar] = ['#busy', '#busy span', '#busy progress'].map((css) => () => page.querySelector(css));

  const say = (far) => {
    if (!sign()) return;
    const line = page.querySelector('.line[aria-current] .t')?.textContent ?? 'The program';
    const looks = [...underWay.values()].every(Boolean);
    sign().hidden = underWay.size === 0;
    const what = far?.words ?? (looks ? 'a look at the change' : 'working');
    words().textContent = sign().hidden ? '' : `${line}: ${what} …`;
    bar().hidden = !far;
    if (far) bar().value = far.share;
  };
  const ask = async () => {
    const job = page.getElementById('bench')?.dataset.job;
    const answer = job && await fetch(`/jobs/${job}/underway`).catch(() => null);
    const far = answer?.status === 200 ? await answer.json() : null;
    if (underWay.size === 0) return;
    say(far);
    waiting = window.setTimeout(ask, AGAIN);
  };
  const begin = (event) => {
    const { detail } = event;
    const { path } = detail.requestConfig;
    // What comes after the answer, and what is told of files, keeps nobody waiting.
    if (/\/(late|told|state)(\?|$)/.test(path)) return;
    underWay.set(detail.xhr, path.endsWith('/try'));
    if (underWay.size === 1) waiting = window.setTimeout(() => { say(null); ask(); }, SILENT);
  };
  const end = (event) => {
    if (!underWay.delete(event.detail.xhr) || underWay.size > 0) return;
    clearTimeout(waiting);
    say(null);
  };
  page.addEventListener('htmx:beforeSend', begin);
  for (const name of ['htmx:afterRequest', 'htmx:sendAbort', 'htmx:sendError']) page.addEventListener(name, end);
  page.addEventListener('click', ({ target }) => {
    if (!(/** @type {Element} */ (target)).closest?.('#busy button')) return;
    const changes = [...underWay.values()].some((looks) => !looks);
    for (const xhr of [...underWay.keys()]) xhr.abort();
    // A change may have been kept in the very moment: the page is drawn as the job is.
    if (changes) window.location.reload();
  });
}
