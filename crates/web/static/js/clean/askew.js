// A photograph that shows something with four sides: offered to be squared up with one press, whatever line is open.
import { choose } from '../ask.js';

/**
 * @param {HTMLElement} element
 * @returns {() => void}
 */
export function mount(element) {
  const gone = new AbortController();
  const { job } = element.dataset;
  const offer = async () => {
    // Looked up in silence: who photographed nothing with four sides need not hear of it.
    const answer = await fetch(`/jobs/${job}/squares`, { signal: gone.signal }).catch(() => null);
    if (!answer?.ok) return;
    const [clearest] = await answer.json();
    if (!clearest.askew) return;
    element.querySelector('span').textContent = `Something ${clearest.said}`;
    element.hidden = false;
    element.querySelector('button').addEventListener('click', () => {
      const line = document.querySelector('.line[aria-current]')?.id.replace('line-', '') ?? 'clean';
      const edit = { op: 'add', action: clearest.action, then: clearest.then };
      choose(job, { changed: 'clean', clean: JSON.stringify(edit) }, line);
    });
  };
  offer();
  return () => gone.abort();
}
