// Files come down by a request of the page's own: one that lasts is told and can be stopped, and a refusal is told in
// the page, where the browser would open another one.
import { wordsOf } from '../ask.js';

/** What a file is called. @param {string} head the answer's `Content-Disposition` */
export function nameIn(head) {
  const name = /filename="([^"]*)"/.exec(head)?.[1] ?? 'cut-file';
  // A header's bytes come as one letter each.
  return new TextDecoder().decode(Uint8Array.from(name, (letter) => letter.charCodeAt(0)));
}

/** @param {Document} page */
export function listen(page) {
  page.addEventListener('click', async (event) => {
    /** @type {?HTMLAnchorElement} */
    const link = (/** @type {Element} */ (event.target)).closest?.('.job-page a[download]');
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    const off = new AbortController();
    const work = { abort: () => off.abort() };
    const tell = (name) => page.dispatchEvent(new CustomEvent(name, { detail: { work, words: 'writing the files' } }));
    const problem = page.querySelector('#problem-notice');
    problem.replaceChildren();
    tell('began');
    try {
      const answer = await fetch(link.href, { signal: off.signal });
      if (!answer.ok) {
        problem.textContent = await wordsOf(answer);
        return;
      }
      const address = URL.createObjectURL(await answer.blob());
      const file = Object.assign(page.createElement('a'), { href: address, download: nameIn(answer.headers.get('content-disposition') ?? '') });
      file.click();
      // The browser reads it on its own time.
      setTimeout(() => URL.revokeObjectURL(address), 60_000);
    } catch {
      if (!off.signal.aborted) page.dispatchEvent(new Event('unanswered'));
    } finally {
      tell('ended');
    }
  });
}
