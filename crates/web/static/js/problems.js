// A refusal is seen and heard where it belongs: its group is shown, and its field says that it is wrong.
import { reveal } from './groups.js';

/** Fields that a problem is told of: by its name, as `problem-copies` names `copies`. */
function fieldsOf(problem) {
  const name = CSS.escape(problem.id.replace('problem-', ''));
  const around = problem.closest('#line-body, .material-sheet, .drop') ?? document;
  const all = [...around.querySelectorAll(`[name="${name}"], #${name}, #f-${name}`)];
  return all.filter((e) => e.matches('input:not([type="hidden"], [type="range"]), select'));
}

function tie(problem) {
  const wrong = problem.textContent.trim() !== '';
  for (const field of fieldsOf(problem)) {
    if (wrong) {
      field.setAttribute('aria-invalid', 'true');
      field.setAttribute('aria-describedby', problem.id);
    } else field.removeAttribute('aria-invalid');
  }
  if (wrong) reveal(problem);
}

/** @param {Document} page */
export function listen(page) {
  page.addEventListener('htmx:oobAfterSwap', (event) => {
    const swapped = /** @type {Element} */ (event.target);
    if (swapped.matches?.('.problem')) tie(swapped);
  });
}
