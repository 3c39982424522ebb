// What lasts over a second says by name what is done and how far it is, and can be stopped: the bench shows what was
// there before.

/** How long nothing is said, ms. */
const SILENT = 1000;
/** How often it is asked how far it is, ms. */
const AGAIN = 500;

/** @param {Document} page */
export function listen(page) {
  /**
   * What is under way: in words, and whether it changes the job.
   * @type {Map<{abort: () => void}, {words: string, changes: boolean}>}
   */
  const underWay = new Map();
  let waiting = 0;
  const [sign, words, bar] = ['#busy', '#busy span', '#busy progress'].map((css) => () => page.querySelector(css));

  const say = (far) => {
    if (!sign()) return;
    const line = page.querySelector('.line[aria-current] .t')?.textContent ?? 'The program';
    const all = [...underWay.values()];
    sign().hidden = all.length === 0;
    const what = far?.words ?? (all.find((work) => work.changes) ?? all[0])?.words;
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
  const took = (work, of) => {
    underWay.set(work, of);
    if (underWay.size === 1) waiting = window.setTimeout(() => { say(null); ask(); }, SILENT);
  };
  const done = (work) => {
    if (!underWay.delete(work) || underWay.size > 0) return;
    clearTimeout(waiting);
    say(null);
  };
  const begin = (event) => {
    const { detail } = event;
    const { path } = detail.requestConfig;
    // What comes after the answer, and what is told of files, keeps nobody waiting.
    if (/\/(late|told|state)(\?|$)/.test(path)) return;
    const changes = !path.endsWith('/try');
    took(detail.xhr, { words: changes ? 'working' : 'a look at the change', changes });
  };
  const end = (event) => done(event.detail.xhr);
  page.addEventListener('htmx:beforeSend', begin);
  for (const name of ['htmx:afterRequest', 'htmx:sendAbort', 'htmx:sendError']) page.addEventListener(name, end);
  const told = (event) => /** @type {CustomEvent} */ (event).detail;
  page.addEventListener('began', (event) => took(told(event).work, { words: told(event).words, changes: false }));
  page.addEventListener('ended', (event) => done(told(event).work));
  page.addEventListener('click', ({ target }) => {
    if (!(/** @type {Element} */ (target)).closest?.('#busy button')) return;
    const changes = [...underWay.values()].some((work) => work.changes);
    for (const work of [...underWay.keys()]) work.abort();
    // A change may have been kept in the very moment: the page is drawn as the job is.
    if (changes) window.location.reload();
  });
}
