// That the program does not answer, and that it answers again, is noticed by itself; what was typed meanwhile is sent
// then.

/** How long between two tries, ms. */
const AGAIN = 2000;
const GONE = 'The program does not answer. What was saved before is kept, and what you type is sent as soon as it answers again.';
const BACK = 'The program answers again.';

/** @param {Document} page */
export function listen(page) {
  let away = false;
  /** Fields that could not be sent, with the event that sends them. @type {Map<Element, string>} */
  const unsent = new Map();

  const say = (words) => {
    const notice = page.getElementById('problem-notice');
    if (notice) notice.textContent = words;
  };
  const tried = async () => {
    const answer = await fetch('/static/mark.svg', { method: 'HEAD', cache: 'no-store' }).catch(() => null);
    if (!answer) {
      setTimeout(tried, AGAIN);
      return;
    }
    away = false;
    say(BACK);
    const fields = [...unsent].filter(([field]) => field.isConnected);
    unsent.clear();
    for (const [field, event] of fields) window.htmx.trigger(field, event);
  };
  const gone = () => {
    say(GONE);
    if (!away) setTimeout(tried, AGAIN);
    away = true;
  };
  page.addEventListener('htmx:sendError', (event) => {
    const { elt, requestConfig } = /** @type {CustomEvent} */ (event).detail;
    const typed = !elt.matches('body, button, a') && !elt.querySelector('[type="file"]');
    const sends = requestConfig.triggeringEvent?.type;
    if (typed && sends && requestConfig.verb === 'post' && !requestConfig.path.endsWith('/try')) unsent.set(elt, sends);
    gone();
  });
  page.addEventListener('unanswered', gone);
  // Whoever comes back to the page finds out before they work on.
  page.addEventListener('visibilitychange', () => {
    if (!page.hidden && !away) fetch('/static/mark.svg', { method: 'HEAD', cache: 'no-store' }).catch(gone);
  });
}
