// Asks the program for a change of the job, one after the other, as the forms of the ticket do.

let last = Promise.resolve();

/**
 * @param {string} address
 * @param {Record<string, string>} values what is sent beside the revision
 * @returns {Promise<void>} when it is done, or was refused beside its control
 */
export function ask(address, values) {
  const send = () => window.htmx.ajax('POST', address, {
    target: 'body',
    swap: 'none',
    values: { revision: document.getElementById('revision').value, ...values },
  });
  // The next one is sent with the revision that this one makes.
  last = last.then(send, send);
  return last;
}

/**
 * @param {string} job
 * @param {Record<string, string>} values names of changed fields under `changed`, and the fields
 * @param {string} line the open line of the ticket
 */
export const choose = (job, values, line) => ask(`/jobs/${job}/choose`, { line, ...values });

/** Looks something up; a refusal lands in `problem`. */
export async function find(job, query, problem, what = 'found') {
  problem.replaceChildren();
  const answer = await fetch(`/jobs/${job}/${what}?${new URLSearchParams(query)}`);
  if (answer.ok) return answer.json();
  const page = new DOMParser().parseFromString(await answer.text(), 'text/html');
  problem.textContent = page.body.textContent.trim() || 'The program does not answer; try again.';
  return null;
}

/** Puts a tool into the bench's hand; it stays there until another is taken or Escape is pressed. */
export function take(tool) {
  document.getElementById('bench')?.dispatchEvent(new CustomEvent('take', { detail: tool }));
}
