// Asks the program for a change of the job, one after the other, as the forms of the ticket do.

/** @type {Promise<unknown>} */
let last = Promise.resolve();

/**
 * @param {string} address
 * @param {Record<string, string>} values what is sent beside the revision
 * @returns {Promise<boolean>} when it is answered: whether it was done; else it was refused beside its
 *   control, or never reached the program
 */
export function ask(address, values) {
  const send = async () => {
    let done = false;
    const heard = (event) => { if (event.detail.elt === document.body) done = event.detail.successful; };
    document.addEventListener('htmx:afterRequest', heard);
    try {
      await window.htmx.ajax('POST', address, {
        target: 'body',
        swap: 'none',
        values: { revision: document.getElementById('revision').value, ...values },
      });
    } catch {
      done = false;
    } finally {
      document.removeEventListener('htmx:afterRequest', heard);
    }
    return done;
  };
  // The next one is sent with the revision that this one makes.
  document.dispatchEvent(new Event('asked'));
  const answered = last.then(send);
  last = answered.finally(() => document.dispatchEvent(new Event('answered')));
  return answered;
}

/**
 * @param {string} job
 * @param {Record<string, string>} values names of changed fields under `changed`, and the fields
 * @param {string} line the open line of the ticket
 */
export const choose = (job, values, line) => ask(`/jobs/${job}/choose`, { line, ...values });

/** What a refusal says for people. @param {Response} answer */
export async function wordsOf(answer) {
  const page = new DOMParser().parseFromString(await answer.text(), 'text/html');
  return page.body.textContent.trim();
}

/** Looks something up; a refusal lands in `problem`. */
export async function find(job, query, problem, what = 'found') {
  problem.replaceChildren();
  const answer = await fetch(`/jobs/${job}/${what}?${new URLSearchParams(query)}`).catch(() => null);
  if (!answer) {
    document.dispatchEvent(new Event('unanswered'));
    return null;
  }
  if (answer.ok) return answer.json();
  problem.textContent = await wordsOf(answer);
  return null;
}

/** Puts a tool into the bench's hand; it stays there until another is taken or Escape is pressed. */
export function take(tool) {
  document.getElementById('bench')?.dispatchEvent(new CustomEvent('take', { detail: tool }));
}
