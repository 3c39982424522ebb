// Asks the program for a change of the job, one after the other, as the forms of the ticket do.

let last = Promise.resolve();

/**
 * @param {string} job
 * @param {Record<string, string>} values names of changed fields under `changed`, and the fields
 * @param {string} line the open line of the ticket
 * @returns {Promise<void>} when it is done, or was refused beside its control
 */
export function choose(job, values, line) {
  const send = () => window.htmx.ajax('POST', `/jobs/${job}/choose`, {
    target: 'body',
    swap: 'none',
    values: { revision: document.getElementById('revision').value, line, ...values },
  });
  // The next one is sent with the revision that this one makes.
  last = last.then(send, send);
  return last;
}

/** Looks something up; a refusal lands in `problem`. */
export async function find(job, query, problem) {
  problem.replaceChildren();
  const answer = await fetch(`/jobs/${job}/found?${new URLSearchParams(query)}`);
  if (answer.ok) return answer.json();
  const page = new DOMParser().parseFromString(await answer.text(), 'text/html');
  problem.textContent = page.body.textContent.trim() || 'The program does not answer; try again.';
  return null;
}

/** Puts a tool into the bench's hand; it stays there until another is taken or Escape is pressed. */
export function take(tool) {
  document.getElementById('bench')?.dispatchEvent(new CustomEvent('take', { detail: tool }));
}
