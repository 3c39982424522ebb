// The Send line: the controls of the chosen format, what the file will hold, and the address it comes from.
import { fetched } from '../bench/sheetview.js';


const KEPT = 'inky-send';

/**
 * @param {HTMLFormElement} form
 * @returns {() => void} takes the listeners off again
 */
export function mount(form) {
  const off = new AbortController();
  const { job, sheets: key } = form.dataset;
  const bench = document.getElementById('bench');
  const send = (name, detail) => bench.dispatchEvent(new CustomEvent(name, { detail }));
  let seen = null;
  /** @type {HTMLAnchorElement} */
  const go = document.querySelector('#send-go');
  const rows = [...form.querySelectorAll('[data-for]')];
  const fields = () => /** @type {HTMLInputElement[]} */ ([...form.elements]).filter((e) => e.name);

  // A list may not offer any more what was chosen.
  const hasChoice = (/** @type {Element} */ field, word) => !(field instanceof HTMLSelectElement) || [...field.options].some((o) => o.value === word);

  // What was chosen last is chosen again, but for the format, which suits the job.
  const kept = JSON.parse(localStorage.getItem(KEPT) ?? '{}');
  for (const field of fields()) {
    if (!(field.name in kept) || ['format', 'what', 'price'].includes(field.name)) continue;
    if (field.type === 'checkbox') field.checked = kept[field.name] === 'on';
    else if (hasChoice(field, kept[field.name])) field.value = kept[field.name];
  }

  function shown() {
    form.querySelector('#problem-send').textContent = '';
    const values = Object.fromEntries(new FormData(form));
    for (const row of rows) {
      row.hidden = row.dataset.for !== values.format;
      // What belongs to another format is not sent.
      for (const field of row.querySelectorAll('input, select')) field.disabled = row.hidden;
    }
    for (const label of form.querySelectorAll('[data-paper]')) label.hidden = label.dataset.paper !== form.elements.paper.value;
    // A sheet is laid out of the build; only the design itself can be had as it was designed.
    form.elements.plain.disabled = values.what !== 'design';
    // A form of words and figures, no files.
    const sent = new URLSearchParams(/** @type {Record<string, string>} */ (values));
    go.href = `/jobs/${job}/file?${sent}`;
    const label = form.querySelector('input[name=format]:checked')?.closest('label')?.textContent.trim();
    go.querySelector('span').textContent = `Download ${label ?? ''}`;
    const all = Object.fromEntries(fields().map((f) => [f.name, f.type === 'checkbox' ? (f.checked ? 'on' : '') : f.value]));
    localStorage.setItem(KEPT, JSON.stringify(all));
  }
  // The bench shows what is sent.
  async function look() {
    const what = form.elements.what.value;
    if (what === seen) return;
    seen = what;
    if (what === 'design' || !form.dataset.count || form.dataset.count === '0') {
      send('look', 'assembled');
      return;
    }
    const sheet = await fetched(job, key, what === 'sheets' ? 0 : Number(what), off.signal).catch(() => null);
    if (!sheet || seen !== what) return;
    send('sheet', sheet);
    send('look', 'sheet');
  }
  form.addEventListener('change', () => { look(); }, { signal: off.signal });
  form.addEventListener('change', shown, { signal: off.signal, capture: true });
  form.addEventListener('input', shown, { signal: off.signal, capture: true });
  // No request of the form itself but what it asks for.
  form.addEventListener('submit', (event) => event.preventDefault(), { signal: off.signal });
  shown();
  look();
  return () => {
    off.abort();
    send('look', null);
    send('sheet', null);
  };
}
